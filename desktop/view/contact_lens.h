// Contacts, seen in the live view: where particles hit something, how many and how hard.
#pragma once

#include "core/runtime/frame.h"
#include "render/camera.h"

#include <QSize>
#include <QString>

#include <deque>

class QPainter;

namespace ember {

/// The contacts of the last moments, which fade.
class ContactLens {
  public:
    /// The contacts of a step. Steps that were left out between two pictures are not missed: figures are of
    /// the steps that were seen.
    void add(uint64_t step, const std::vector<FrameContact>& contacts);
    void clear() { seen_.clear(); }

    void paint(QPainter& painter, const Camera& camera, QSize size) const;

    /// How many, and how hard: "1.2 k contacts a second, hardest 8.1 m/s, mean 2.2 m/s".
    QString figures() const;

  private:
    struct Seen {
        uint64_t step;
        std::vector<FrameContact> contacts;
    };
    std::deque<Seen> seen_; // the newest last
};

} // namespace ember
