// Reading others' formats with others' libraries, in this process. Such a library may abort, hang or take all
// memory on a damaged file, so the program does not call these itself: it asks crisp-ember-reader, which does
// (see reading.cpp). What they return is described where the program's own functions are declared.
#pragma once

#include "core/assets/files.h"
#include "core/assets/image.h"
#include "core/assets/mesh_file.h"
#include "core/assets/piece_clip.h"
#include "core/assets/smoke_clip.h"
#include "core/assets/vector_grid.h"

namespace ember {

std::optional<Mesh> decode_mesh(const std::filesystem::path& path, Problems& problems,
                                const Progress& progress);
std::optional<VectorGrid> decode_vectors(const std::filesystem::path& path, int most_cells,
                                         Problems& problems);
std::optional<SmokeClip> decode_smoke(const std::filesystem::path& first, int volume, Problems& problems,
                                      const Progress& progress);
std::optional<PieceFile> decode_pieces(const std::filesystem::path& path, double frames_per_s,
                                       Problems& problems);
std::optional<Image> decode_image(const std::filesystem::path& path, Problems& problems);
std::optional<HeightImage> decode_heights(const std::filesystem::path& path, Problems& problems);

} // namespace ember
