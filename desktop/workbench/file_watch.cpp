#include "desktop/workbench/file_watch.h"

#include <QFileInfo>

#include <algorithm>
#include <utility>

namespace ember {

namespace {

constexpr int rest_ms = 300; // programs write in pieces, or put another file in place of the old one

} // namespace

FileWatch::FileWatch(QObject* parent) : QObject(parent) {
    rest_.setSingleShot(true);
    rest_.setInterval(rest_ms);
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this](const QString& file) {
        if (!changed_.contains(file)) {
            changed_ << file;
        }
        rest_.start();
    });
    connect(&rest_, &QTimer::timeout, this, [this] {
        const bool is_whole = std::all_of(changed_.begin(), changed_.end(),
                                          [](const QString& file) { return QFileInfo::exists(file); });
        watchAll();
        if (!is_whole) { // it is still being replaced, or is gone
            return;
        }
        const QStringList files = std::exchange(changed_, {});
        emit changed(files);
    });
}

void FileWatch::watch(const QStringList& files) {
    if (files != files_) {
        files_ = files;
        watchAll();
    }
}

// What was replaced is another file to the system, and has to be watched anew.
void FileWatch::watchAll() {
    const QStringList before = watcher_.files();
    for (const QString& file : before) {
        if (!files_.contains(file)) {
            watcher_.removePath(file);
        }
    }
    for (const QString& file : files_) {
        if (!before.contains(file) && QFileInfo::exists(file)) {
            watcher_.addPath(file);
        }
    }
}

} // namespace ember
