// An effect as a sheet of small pictures that a game plays one after the other.
//
// All are without the stage, trimmed to what is seen in any of them, and laid out in the most even grid.
// Motion vectors say where what is seen in a picture is in the next one, so that a game can show what lies
// between two.
#pragma once

#include "core/assets/image.h"
#include "core/base/problem.h"

#include <filesystem>
#include <optional>
#include <vector>

namespace ember {

enum class SheetLoop {
    none,
    fade, // the end fades over into the beginning, and is cut off
    find  // from and to where the pictures are most alike
};

struct SheetChoice {
    SheetLoop loop = SheetLoop::none;
    bool is_premultiplied = false; // colour times opacity, for games that blend so
    bool has_motion = true, has_normals = true;
};

/// Two numbers a pixel: how far what is seen there moves to the next picture, in pixels, to the right and
/// down.
struct MotionField {
    int width = 0, height = 0;
    std::vector<float> x, y;
};

/// Motion from one picture to another by brightness and opacity (B. Horn, B. Schunck, "Determining Optical
/// Flow", 1981; from coarse to fine). Both are of one size, light multiplied by opacity.
MotionField motion_between(const Image& from, const Image& to);

/// What lies between two pictures, at a share of the way: both moved along and blended, as a game does it
/// with a sheet (docs/bakes.md).
Image between(const Image& from, const Image& to, const MotionField& motion, float share);
/// The same without motion: one fades over into the other.
Image faded(const Image& from, const Image& to, float share);

/// The mean difference of two pictures, of light and opacity, 0..1.
double difference_of(const Image& a, const Image& b);

struct SpriteSheet {
    int columns = 0, rows = 0, frames = 0;
    int cell_width = 0, cell_height = 0;   // px, trimmed
    int trimmed_left = 0, trimmed_top = 0; // px that are gone
    int first = 0;                         // the frame that it begins with
    double seam = 0;                       // how far its end and its beginning differ, 0..1
    float motion_px = 1;                   // what the codes 0 and 1 stand for: minus and plus so many
    Image colours, motion, normals;        // empty if not wanted
    bool is_premultiplied = false;
    bool is_loop = false;
    uint64_t bytes() const; // as textures of 8 bits
};

/// Why there can be none of these pictures; nothing if there can.
std::optional<Problem> refusal_of_sheet(int frames, int width, int height);

/// Of pictures of one size, light multiplied by opacity.
SpriteSheet sheet_of(const std::vector<Image>& frames, const SheetChoice& choice);

/// What a game shows at a place between two frames, 0 up to their number, by motion vectors where there are
/// some.
Image played(const SpriteSheet& sheet, double frame);

/// sheet.png, sheet-motion.png, sheet-normals.png and sheet.json, which is written last. See docs/bakes.md.
std::optional<Problem> write_sheet(const SpriteSheet& sheet, double frames_per_s,
                                   const std::filesystem::path& folder);

} // namespace ember
