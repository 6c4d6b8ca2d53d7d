#include "session/background.hpp"

#include <QCoreApplication>
#include <QElapsedTimer>

namespace sipper::app {

Background::Background(QObject* parent) : QObject(parent) {}

Background::~Background() {
    disconnect();
    m_next = nullptr;
    m_thread.request_stop();
}

void Background::run(Work work) {
    if (m_busy) {
        m_next = std::move(work);
        m_dropped = true;
        m_thread.request_stop();
        return;
    }
    m_busy = true;
    start(std::move(work));
    emit busyChanged();
}

void Background::start(Work work) {
    m_dropped = false;
    m_thread = std::jthread([this, work = std::move(work)](const std::stop_token& stop) {
        std::function<void()> deliver = work(stop);
        QMetaObject::invokeMethod(
            this, [this, deliver = std::move(deliver)] { finish(deliver); }, Qt::QueuedConnection);
    });
}

void Background::finish(const std::function<void()>& deliver) {
    if (m_next) {
        start(std::exchange(m_next, nullptr));
        return;
    }
    m_busy = false;
    if (!m_dropped && deliver)
        deliver();
    emit busyChanged();
}

void Background::stop() {
    if (!m_busy)
        return;
    m_next = nullptr;
    m_dropped = true;
    m_thread.request_stop();
}

bool Background::settle(int milliseconds) {
    QElapsedTimer timer;
    timer.start();
    while (m_busy && timer.elapsed() < milliseconds)
        QCoreApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 20);
    return !m_busy;
}

} // namespace sipper::app
