// The pictures that writers of a bake share.
#pragma once

#include "render/bake_pictures.h"

#include <map>
#include <tuple>

namespace ember {

class BakePainter {
  public:
    /// The same for everyone who asks for the same frame.
    std::shared_ptr<const Still> draw(const Frame& frame, int number, const BakedPicture& picture,
                                      StillKind kind);

  private:
    using Wanted = std::tuple<int, int, bool, StillKind>;
    struct Drawn {
        StillPainter painter;
        int number = -1;
        std::shared_ptr<const Still> still;
    };
    std::map<Wanted, Drawn> drawn_;
};

} // namespace ember
