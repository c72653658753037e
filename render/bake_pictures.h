// Pictures of a bake: as sequences, and as video.
#pragma once

#include "core/bake/bake.h"
#include "render/sprite_sheet.h"
#include "render/still.h"

#include <memory>

namespace ember {

/// Draws the frames of a bake, each once for all who want the same.
class BakePainter;
std::shared_ptr<BakePainter> bake_painter();

struct BakedPicture {
    int width = 1280, height = 800;
    bool is_alone = false; // without the stage, with opacity
    bool operator==(const BakedPicture&) const = default;
};

/// A frame as those who write pictures of it draw it.
void draw_baked(BakePainter& painter, const Frame& frame, int number, const BakedPicture& picture);

/// Layers: OpenEXR with depth, and with each source by itself.
enum class PictureFormat { png8, png16, exr, layers };
/// One picture a frame, written on threads beside drawing; only a few wait at a time.
std::unique_ptr<BakeWriter> picture_files(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                          const BakedPicture& picture, PictureFormat format);

/// H.264 in MP4, VP9 in WebM; with opacity ProRes 4444 and PNG, both in MOV.
enum class VideoFormat { h264, vp9, prores, png };
/// Why such a video cannot be written here; nothing if it can.
std::optional<Problem> refusal_of_video(const BakeOrder& order, const BakedPicture& picture,
                                        VideoFormat format);
/// All frames as one video.
std::unique_ptr<BakeWriter> video_file(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                       const BakedPicture& picture, VideoFormat format);

/// All frames as one sprite sheet (see sprite_sheet.h), in a folder of its own; each is `width` x `height`
/// before it is trimmed. `made` is told of it once it is written.
std::unique_ptr<BakeWriter> sheet_files(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                        int width, int height, const SheetChoice& choice,
                                        std::function<void(const SpriteSheet&)> made = {});

} // namespace ember
