// What files that are read by assimp have in common.
#pragma once

#include <set>
#include <string>

namespace Assimp {
class Importer;
}

namespace ember {

/// A file that looks like another format is not to be read as that.
void keep_only(Assimp::Importer& importer, const std::set<std::string>& endings);

} // namespace ember
