// Files on disk that an effect reads: tells when one of them has been written anew.
#pragma once

#include <QFileSystemWatcher>
#include <QObject>
#include <QStringList>
#include <QTimer>

namespace ember {

class FileWatch : public QObject {
    Q_OBJECT

  public:
    explicit FileWatch(QObject* parent = nullptr);

    /// These, and no others; those that are not there are looked at once they are.
    void watch(const QStringList& files);

  signals:
    /// Once writing has come to rest.
    void changed(const QStringList& files);

  private:
    void watchAll();

    QFileSystemWatcher watcher_;
    QStringList files_, changed_;
    QTimer rest_;
};

} // namespace ember
