// What may become of files that are dropped on the window.
#pragma once

#include "core/effect/effect.h"

#include <QString>

#include <functional>
#include <string>
#include <vector>

namespace ember {

struct DropChoice {
    QString words;
    /// The effect with it. `file`: as elements name it, beside the effect's own file. `id` receives what is
    /// to be selected.
    std::function<Effect(const Effect& effect, const std::string& file, std::string& id)> taken;
};

/// By the file's ending: meshes give birth, are hit or break, PLY files are played as clips, images are
/// backgrounds or heights, grids are flows, keys lead movers. Empty: nothing can be made of such a file.
std::vector<DropChoice> drop_choices(const QString& path);

} // namespace ember
