// One piece of work at a time beside the window; the newest request wins.
#pragma once

#include <QObject>
#include <functional>
#include <stop_token>
#include <thread>

namespace sipper::app {

class Background : public QObject {
    Q_OBJECT
  public:
    /// Runs beside the window with a token that asks it to stop; what it returns, if anything, runs
    /// in the window's thread afterwards.
    using Work = std::function<std::function<void()>(const std::stop_token&)>;

    explicit Background(QObject* parent = nullptr);
    ~Background() override;

    /// Starts the work; work that is under way is asked to stop and its result dropped. Never
    /// waits.
    void run(Work work);
    /// Gives up what is under way and what waits.
    void stop();
    [[nodiscard]] bool busy() const { return m_busy; }
    /// Waits until nothing is under way, for at most `milliseconds`; for tests and pictures.
    bool settle(int milliseconds = 20000);

  signals:
    void busyChanged();

  private:
    void start(Work work);
    void finish(const std::function<void()>& deliver);

    Work m_next;
    bool m_busy = false;
    bool m_dropped = false; ///< nobody wants what is under way
    std::jthread m_thread;
};

} // namespace sipper::app
