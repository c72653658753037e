// Reads the files that an effect names on a thread of its own, with progress and cancel.
#pragma once

#include "core/assets/assets.h"

#include <QObject>
#include <QString>

#include <atomic>
#include <map>
#include <thread>

namespace ember {

class AssetLoader : public QObject {
    Q_OBJECT

  public:
    explicit AssetLoader(QObject* parent = nullptr) : QObject(parent) {}
    ~AssetLoader() override;

    /// What the effect needs and is there already. Starts reading the rest, unless that was cancelled before.
    Assets assetsFor(const EffectPtr& effect, const QString& folder);
    /// The same, without beginning to read.
    Assets known(const EffectPtr& effect, const QString& folder, bool& complete) const {
        return library_.ready(*effect, folder.toStdString(), complete);
    }
    bool isReading() const { return reading_; }
    void cancel();
    /// Reads all files anew when they are next asked for.
    void forget();

    /// Of all that has been read, for what runs beside.
    AssetLibrary& library() { return library_; }

    /// What is wrong with the files of an element, for people; empty if nothing is.
    QString problemOf(const std::string& element_id) const;

  signals:
    void started();
    void progressed(const QString& what, int percent);
    /// Everything that can be read has been; ask assetsFor() again.
    void finished();

  private:
    void onRead(const LoadResult& result);
    void join();

    AssetLibrary library_;
    std::thread thread_;
    std::atomic<bool> cancelled_ = false;
    bool reading_ = false;
    std::string given_up_; // the needs that were cancelled
    std::string asked_;    // the needs that are being read
    std::map<std::string, QString> problems_;
};

} // namespace ember
