#include "core/assets/clip_files.h"
#include "core/assets/decoding.h"

#include <Imath/half.h>
#include <openvdb/io/File.h>
#include <openvdb/openvdb.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int64_t most_side = 4096;
constexpr float most_amount = 60000; // half floats end there

// What the grid of a volume is called beyond "density": nothing, or "ID ".
std::optional<std::string> prefix_of(const std::string& name) {
    static const std::string density = "density";
    if (!name.ends_with(density)) {
        return std::nullopt;
    }
    const std::string prefix = name.substr(0, name.size() - density.size());
    return prefix.empty() || prefix.ends_with(' ') ? std::optional(prefix) : std::nullopt;
}

std::optional<SmokeClipFrame> decode_frame(const std::filesystem::path& path, int volume,
                                           Problems& problems) {
    openvdb::initialize();
    const auto refuse = [&](std::string found, std::string expected) -> std::optional<SmokeClipFrame> {
        problems.push_back({path.string(), 0, "", std::move(found), std::move(expected)});
        return std::nullopt;
    };
    openvdb::FloatGrid::Ptr density, heat;
    std::string others;
    try {
        openvdb::io::File file(path.string());
        file.open(false);
        std::optional<std::string> prefix;
        int left = volume;
        for (auto name = file.beginName(); name != file.endName(); ++name) {
            const bool is_number = file.readGridMetadata(name.gridName())->isType<openvdb::FloatGrid>();
            const auto own = prefix_of(name.gridName());
            if (is_number && own && --left == 0) {
                prefix = own;
                density = openvdb::gridPtrCast<openvdb::FloatGrid>(file.readGrid(name.gridName()));
            }
            others += (others.empty() ? "" : ", ") + name.gridName();
        }
        for (const char* name : {"heat", "temperature"}) {
            if (density && !heat && file.hasGrid(*prefix + name)) {
                heat = openvdb::gridPtrCast<openvdb::FloatGrid>(file.readGrid(*prefix + name));
            }
        }
    } catch (const std::bad_alloc&) {
        return refuse("a file whose reading takes too much memory", "a whole OpenVDB file");
    } catch (const std::exception& error) {
        return refuse(std::string("unreadable: ") + error.what(), "an OpenVDB file");
    }
    constexpr uintmax_t least_bytes = 65; // of a file that says that it has none
    std::error_code error;
    if (others.empty() && std::filesystem::file_size(path, error) >= least_bytes) {
        return SmokeClipFrame(); // there is no volume yet
    }
    if (!density) {
        return refuse(others.empty() ? "no grids" : "only " + others,
                      volume == 1 ? "a grid of numbers that is named density"
                                  : std::to_string(volume) + " grids of numbers that are named density");
    }
    SmokeClipFrame frame;
    if (const auto middle = density->getMetadata<openvdb::Vec3SMetadata>("bound_middle")) {
        const openvdb::Vec3s& told = middle->value();
        frame.tells_middle = std::isfinite(told.length());
        frame.middle = {told.x(), told.y(), told.z()};
    }
    openvdb::CoordBBox box = density->evalActiveVoxelBoundingBox();
    if (heat) {
        box.expand(heat->evalActiveVoxelBoundingBox());
    }
    if (box.empty()) {
        return frame; // there is nothing yet, or any more
    }
    const openvdb::math::Transform& transform = density->transform();
    const openvdb::Vec3d voxel = transform.voxelSize(), low = transform.indexToWorld(box.min());
    const openvdb::Vec3d across = transform.indexToWorld(box.min().offsetBy(1, 1, 1)) - low;
    const double cell = voxel.x();
    const bool is_upright =
        cell > 1e-6 && cell < 1e6 && (across - openvdb::Vec3d(cell)).length() < 1e-3 * cell;
    if (!is_upright || (heat && heat->transform() != transform)) {
        return refuse("grids that are turned, stretched, or lie differently",
                      "voxels that are cubes along the axes, the same for density and heat");
    }
    const openvdb::Coord size = box.dim();
    if (std::max({size.x(), size.y(), size.z()}) > most_side ||
        size_t(size.x()) * size_t(size.y()) * size_t(size.z()) > most_smoke_clip_voxels) {
        return refuse("smoke that takes " + std::to_string(size.x()) + " x " + std::to_string(size.y()) +
                          " x " + std::to_string(size.z()) + " voxels",
                      "fewer, larger voxels");
    }
    frame.x = size.x();
    frame.y = size.y();
    frame.z = size.z();
    frame.cell = float(cell);
    frame.low = {float(low.x()), float(low.y()), float(low.z())};
    bool is_finite = true;
    const auto read = [&](const openvdb::FloatGrid& grid) {
        std::vector<uint16_t> values(frame.voxels());
        const auto reading = grid.getConstAccessor();
        size_t at = 0;
        for (int z = 0; z < frame.z; ++z) {
            for (int y = 0; y < frame.y; ++y) {
                for (int x = 0; x < frame.x; ++x, ++at) {
                    const float value = reading.getValue(box.min().offsetBy(x, y, z));
                    is_finite = is_finite && std::isfinite(value);
                    values[at] = Imath::half(std::clamp(value, 0.0f, most_amount)).bits();
                }
            }
        }
        return values;
    };
    frame.density = read(*density);
    if (heat) {
        frame.heat = read(*heat);
    }
    return is_finite ? std::optional(frame) : refuse("smoke that is not finite", "finite numbers");
}

Vec3 middle_of(const std::vector<SmokeClipFrame>& frames) {
    Vec3 low = {1e30f, 1e30f, 1e30f}, high = low * -1;
    for (const SmokeClipFrame& frame : frames) {
        if (frame.tells_middle) {
            return frame.middle;
        }
        if (frame.voxels() > 0) {
            const Vec3 last =
                frame.low + Vec3{float(frame.x - 1), float(frame.y - 1), float(frame.z - 1)} * frame.cell;
            low = {std::min(low.x, frame.low.x), std::min(low.y, frame.low.y), std::min(low.z, frame.low.z)};
            high = {std::max(high.x, last.x), std::max(high.y, last.y), std::max(high.z, last.z)};
        }
    }
    return low.x <= high.x ? (low + high) * 0.5f : Vec3();
}

} // namespace

std::optional<SmokeClip> decode_smoke(const std::filesystem::path& first, int volume, Problems& problems,
                                      const Progress& progress) {
    SmokeClip clip;
    clip.frames_per_s = clip_frames_per_s(first);
    size_t voxels = 0;
    const std::vector<std::filesystem::path> paths = clip_files(first);
    for (const std::filesystem::path& path : paths) {
        if (!progress.goes_on("Reading " + path.filename().string(),
                              float(clip.frames.size()) / float(paths.size()))) {
            return std::nullopt;
        }
        auto frame = decode_frame(path, volume, problems);
        if (!frame) {
            return std::nullopt;
        }
        voxels += frame->voxels();
        if (voxels > most_smoke_clip_voxels) {
            problems.push_back({path.string(), 0, "",
                                "more than " + std::to_string(most_smoke_clip_voxels / 1'000'000) +
                                    " million voxels in all frames",
                                "a shorter clip, fewer frames a second, or larger voxels"});
            return std::nullopt;
        }
        clip.frames.push_back(std::move(*frame));
    }
    clip.middle = middle_of(clip.frames);
    return clip;
}

} // namespace ember
