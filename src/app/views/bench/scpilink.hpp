// SPDX-License-Identifier: GPL-3.0-or-later
// A line to an instrument over TCP: questions in order, answers in order, time-outs and garbage
// said.
#pragma once

#include <QObject>
#include <QTcpSocket>
#include <QTimer>
#include <deque>
#include <functional>

namespace sipper::app {

class ScpiLink : public QObject {
    Q_OBJECT
  public:
    explicit ScpiLink(QObject* parent = nullptr);

    /// `127.0.0.1:5025`, or a port alone for this machine. What can't be an address fails at once.
    void open(const QString& address);
    void close();
    [[nodiscard]] bool isOpen() const { return m_ready; }
    [[nodiscard]] const QString& identity() const { return m_identity; }
    /// An order without an answer.
    void put(const QString& line);
    using Answer = std::function<void(const QString&)>;
    void ask(const QString& query, Answer then);

  signals:
    void opened();
    void failed(const QString& why); ///< and closed

  private:
    void take();
    void fail(const QString& why);

    QTcpSocket m_socket;
    QTimer m_patience;
    QByteArray m_line;
    std::deque<Answer> m_waiting;
    QString m_identity;
    QString m_address;
    bool m_ready = false;
};

} // namespace sipper::app
