// The file of a clip of pieces, read by crisp-ember-reader.
#pragma once

#include "core/assets/piece_clip.h"

namespace ember {

/// Sampled so often a second; all arrays fit together.
std::optional<PieceFile> read_pieces(const std::filesystem::path& path, double frames_per_s,
                                     Problems& problems, const Progress& progress);

} // namespace ember
