// Small moving pictures of effects, run and drawn on a thread of their own.
#pragma once

#include "render/renderer.h"

#include <QImage>
#include <QObject>
#include <QSize>

#include <condition_variable>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

namespace ember {

class Thumbnails : public QObject {
    Q_OBJECT

  public:
    /// Of effect files; an empty path is the effect that "new" gives.
    Thumbnails(const std::vector<QString>& paths, QSize pixels, QObject* parent = nullptr);
    ~Thumbnails() override;

    /// Which of them are in sight: only these run.
    void setSeen(const std::vector<size_t>& seen);
    /// The newest picture; null before the first.
    QImage picture(size_t index) const;

  signals:
    void changed();

  private:
    struct Running;

    void run();
    void draw(Running& running, size_t index);

    std::vector<QString> paths_;
    QSize pixels_;

    mutable std::mutex mutex_;
    std::condition_variable wake_;
    std::vector<size_t> seen_;
    std::vector<QImage> pictures_;
    bool stop_ = false;
    std::thread thread_;
};

} // namespace ember
