// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/scpilink.hpp"

namespace sipper::app {
namespace {

constexpr int kPatience = 3000;       ///< ms for an answer
constexpr qsizetype kLongest = 65536; ///< bytes of a line

} // namespace

ScpiLink::ScpiLink(QObject* parent) : QObject(parent) {
    m_patience.setSingleShot(true);
    m_patience.setInterval(kPatience);
    connect(&m_patience, &QTimer::timeout, this,
            [this] { fail(tr("%1 does not answer within 3 s").arg(m_address)); });
    connect(&m_socket, &QTcpSocket::connected, this, [this] {
        m_ready = true;
        ask(QStringLiteral("*IDN?"), [this](const QString& text) {
            m_identity = text;
            emit opened();
        });
    });
    connect(&m_socket, &QTcpSocket::readyRead, this, &ScpiLink::take);
    connect(&m_socket, &QTcpSocket::disconnected, this, [this] {
        if (m_ready)
            fail(tr("%1 has gone").arg(m_address));
    });
    connect(&m_socket, &QTcpSocket::errorOccurred, this, [this](QAbstractSocket::SocketError) {
        if (!m_ready)
            fail(tr("%1: %2").arg(m_address, m_socket.errorString()));
    });
}

void ScpiLink::open(const QString& address) {
    close();
    m_address = address.trimmed();
    const qsizetype colon = m_address.lastIndexOf(':');
    const QString host = colon > 0 ? m_address.left(colon) : QStringLiteral("127.0.0.1");
    bool number = false;
    const int port = m_address.mid(colon + 1).toInt(&number);
    if (!number || port < 1 || port > 65535) {
        fail(tr("“%1” is no address: 127.0.0.1:5025, or a port").arg(m_address));
        return;
    }
    m_patience.start();
    m_socket.connectToHost(host, static_cast<quint16>(port));
}

void ScpiLink::close() {
    m_ready = false;
    m_patience.stop();
    m_waiting.clear();
    m_line.clear();
    // What was ordered last still goes out: it may be what switches an output off.
    if (m_socket.state() == QAbstractSocket::ConnectedState) {
        m_socket.flush();
        m_socket.readAll();
        m_socket.disconnectFromHost();
    }
    m_socket.abort();
}

void ScpiLink::put(const QString& line) {
    if (m_ready)
        m_socket.write(line.toUtf8() + '\n');
}

void ScpiLink::ask(const QString& query, Answer then) {
    if (!m_ready)
        return;
    m_waiting.push_back(std::move(then));
    m_socket.write(query.toUtf8() + '\n');
    m_patience.start();
}

void ScpiLink::take() {
    m_line += m_socket.readAll();
    if (m_line.size() > kLongest && !m_line.contains('\n')) {
        fail(tr("%1 sends what is no answer").arg(m_address));
        return;
    }
    for (qsizetype end = m_line.indexOf('\n'); end >= 0; end = m_line.indexOf('\n')) {
        const QString text = QString::fromUtf8(m_line.left(end)).trimmed();
        m_line.remove(0, end + 1);
        if (m_waiting.empty())
            continue; // nobody asked
        const Answer then = std::move(m_waiting.front());
        m_waiting.pop_front();
        if (m_waiting.empty())
            m_patience.stop();
        else
            m_patience.start();
        then(text);
        if (!m_ready)
            return;
    }
}

void ScpiLink::fail(const QString& why) {
    close();
    emit failed(why);
}

} // namespace sipper::app
