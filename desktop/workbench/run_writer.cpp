#include "desktop/workbench/run_writer.h"

#include <QDir>
#include <QFile>
#include <QUuid>

#include <utility>

namespace ember {

namespace {

const QString run_ending = QStringLiteral(".run.json");

QString beside_run(const QString& file, const char* with) {
    return file.chopped(run_ending.size()) + QLatin1String(with);
}

} // namespace

RunWriter::RunWriter(const QString& folder, Player& player, int every_ms)
    : folder_(folder), key_("run-" + QUuid::createUuid().toString(QUuid::WithoutBraces)), player_(player),
      thread_([this] { write(); }) {
    QDir().mkpath(folder_);
    lock_ = std::make_unique<QLockFile>(beside_run(file(), ".lock"));
    lock_->setStaleLockTime(0);
    lock_->tryLock();
    connect(&timer_, &QTimer::timeout, this, &RunWriter::ask);
    timer_.start(every_ms);
}

RunWriter::~RunWriter() {
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_one();
    thread_.join();
    discard({file(), {}});
}

// What was played so far, in place of what still waits to be written.
void RunWriter::ask() {
    if (!player_.is_playing()) {
        return;
    }
    player_.take([this, document = document_](std::optional<Take> take) {
        if (take) {
            const std::lock_guard lock(mutex_);
            newest_ = Run{std::move(*take), document};
            wake_.notify_one();
        }
    });
}

void RunWriter::write() {
    std::unique_lock lock(mutex_);
    while (true) {
        wake_.wait(lock, [this] { return stop_ || newest_; });
        if (stop_) {
            return;
        }
        const Run run = *std::exchange(newest_, std::nullopt);
        lock.unlock();
        auto problem = save_takes({run.take}, file().toStdString());
        QFile origin(beside_run(file(), ".origin"));
        if (origin.open(QIODevice::WriteOnly)) {
            origin.write(run.document.toUtf8());
        }
        if (problem) {
            QMetaObject::invokeMethod(
                this,
                [this, why = QString::fromStdString(problem->text())] {
                    if (!std::exchange(has_failed_, true)) {
                        emit failed(why);
                    }
                },
                Qt::QueuedConnection);
        }
        lock.lock();
    }
}

std::vector<LostRun> RunWriter::lost() const {
    std::vector<LostRun> runs;
    for (const QFileInfo& info : QDir(folder_).entryInfoList({"*" + run_ending}, QDir::Files, QDir::Time)) {
        // A program that still runs holds its lock.
        QLockFile lock(beside_run(info.filePath(), ".lock"));
        lock.setStaleLockTime(0);
        if (info.filePath() == file() || !lock.tryLock()) {
            continue;
        }
        QFile origin(beside_run(info.filePath(), ".origin"));
        runs.push_back({info.filePath(),
                        origin.open(QIODevice::ReadOnly) ? QString::fromUtf8(origin.readAll()) : QString()});
    }
    return runs;
}

void RunWriter::discard(const LostRun& run) {
    QFile::remove(run.file);
    QFile::remove(beside_run(run.file, ".origin"));
}

} // namespace ember
