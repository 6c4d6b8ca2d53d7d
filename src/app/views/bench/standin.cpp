// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/standin.hpp"

#include "project/file.hpp"
#include "widgets/text.hpp"

#include <QCoreApplication>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>

namespace sipper::app {
namespace {

constexpr int kEndsWithin = 1000; ///< ms, before it is ended by force

/// Beside this program, or one of its folders up (a test's program lies elsewhere); else installed.
QString programPath() {
    const QString name = QStringLiteral("sipper-instruments");
    const QString beside = QCoreApplication::applicationDirPath() + '/' + name;
    return QFileInfo::exists(beside) ? beside : QStandardPaths::findExecutable(name);
}

} // namespace

StandIn::StandIn(QObject* parent) : QObject(parent) {
    connect(&m_process, &QProcess::readyReadStandardOutput, this, &StandIn::take);
    connect(&m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError) {
        if (!m_ended)
            emit failed(tr("The stand-in can't be started: %1").arg(m_process.errorString()));
    });
    connect(&m_process, &QProcess::finished, this, [this](int code) {
        if (!m_ended && code != 0)
            emit failed(QString::fromUtf8(m_process.readAllStandardError()).trimmed());
    });
}

StandIn::~StandIn() {
    stop();
}

void StandIn::start(const Project& project, const std::optional<PlantedFault>& fault) {
    stop();
    m_fault = fault;
    const QString file = m_folder.filePath(QStringLiteral("practice.sipper"));
    if (const auto trouble = saveProject(file.toStdString(), project)) {
        emit failed(qs(trouble->message()));
        return;
    }
    const QString program = programPath();
    if (program.isEmpty()) {
        emit failed(tr("sipper-instruments is not there: it belongs beside this program."));
        return;
    }
    QStringList arguments{file};
    if (fault)
        arguments << QStringLiteral("--fault") << qs(writeFault(*fault));
    m_said = false;
    m_ended = false;
    m_process.start(program, arguments);
}

void StandIn::stop() {
    if (!running())
        return;
    m_ended = true;
    m_process.terminate();
    if (!m_process.waitForFinished(kEndsWithin))
        m_process.kill();
    m_process.waitForFinished(kEndsWithin);
}

/// Its first line says where its instruments answer.
void StandIn::take() {
    if (m_said || !m_process.canReadLine())
        return;
    m_said = true;
    const QJsonObject ports = QJsonDocument::fromJson(m_process.readLine()).object();
    const int meter = ports.value(QLatin1String("meter")).toInt();
    if (meter > 0)
        emit ready(meter, ports.value(QLatin1String("load")).toInt(),
                   ports.value(QLatin1String("supply")).toInt());
    else
        emit failed(tr("The stand-in did not say where it answers."));
}

} // namespace sipper::app
