// Writes the run that is being played along, second by second, so that it can be kept as a take even if the
// program does not end well.
#pragma once

#include "core/runtime/player.h"

#include <QLockFile>
#include <QObject>
#include <QString>
#include <QTimer>

#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace ember {

/// A run of a program that did not end well.
struct LostRun {
    QString file;     // where it was written
    QString original; // the effect's file; empty if it had none
};

class RunWriter : public QObject {
    Q_OBJECT

  public:
    /// Into `folder`, so often while the player plays. Outlived by the player.
    RunWriter(const QString& folder, Player& player, int every_ms = 1000);
    /// What was written is no longer needed.
    ~RunWriter() override;

    void setDocument(const QString& path) { document_ = path; }
    QString file() const { return folder_ + "/" + key_ + ".run.json"; }

    /// Those that nobody has claimed.
    std::vector<LostRun> lost() const;
    static void discard(const LostRun& run);

  signals:
    /// It cannot be written; says why, once.
    void failed(const QString& why);

  private:
    void ask();
    void write();

    QString folder_, key_, document_;
    Player& player_;
    std::unique_ptr<QLockFile> lock_;
    QTimer timer_;
    bool has_failed_ = false;

    std::mutex mutex_;
    std::condition_variable wake_;
    struct Run {
        Take take;
        QString document;
    };
    std::optional<Run> newest_; // to be written
    bool stop_ = false;
    std::thread thread_;
};

} // namespace ember
