// A volume of smoke that plays a clip.
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <Imath/half.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// A frame, read at places of the clip's own: from voxel to voxel evenly, nothing beyond its middles.
class FrameReader {
  public:
    explicit FrameReader(const SmokeClipFrame& frame) : frame_(frame) {}

    SmokeCell at(const Vec3& place) const {
        SmokeCell cell;
        if (frame_.voxels() == 0) {
            return cell;
        }
        const Vec3 in = (place - frame_.low) / frame_.cell;
        const Along x = along(in.x), y = along(in.y), z = along(in.z);
        for (int corner = 0; corner < 8; ++corner) {
            const int i = x.first + (corner & 1), j = y.first + (corner >> 1 & 1),
                      k = z.first + (corner >> 2);
            const float share = (corner & 1 ? x.share : 1 - x.share) * (corner & 2 ? y.share : 1 - y.share) *
                                (corner & 4 ? z.share : 1 - z.share);
            if (share > 0 && i >= 0 && j >= 0 && k >= 0 && i < frame_.x && j < frame_.y && k < frame_.z) {
                const size_t voxel =
                    (size_t(k) * size_t(frame_.y) + size_t(j)) * size_t(frame_.x) + size_t(i);
                cell.density += share * number(frame_.density[voxel]);
                cell.heat += frame_.heat.empty() ? 0 : share * number(frame_.heat[voxel]);
            }
        }
        return cell;
    }

  private:
    struct Along {
        int first;
        float share;
    };
    // Places that are those of a voxel but for rounding read that voxel alone.
    static Along along(float place) {
        constexpr float rounding = 1e-3f;
        const float held = std::clamp(place, -2.0f, 1e6f), near = std::round(held);
        return std::fabs(held - near) < rounding ? Along{int(near), 0}
                                                 : Along{int(std::floor(held)), held - std::floor(held)};
    }
    static float number(uint16_t bits) { return imath_half_to_float(bits); }

    const SmokeClipFrame& frame_;
};

} // namespace

void SmokeVolume::show(const SmokeClip& clip, std::optional<double> frame) {
    begin_meter();
    if (!frame || clip.frames.empty()) {
        if (!std::exchange(is_still_, true)) {
            clear();
        }
        return;
    }
    is_still_ = false;
    const auto first = size_t(std::clamp(*frame, 0.0, double(clip.frames.size() - 1)));
    const auto share = float(*frame - double(first));
    const FrameReader now(clip.frames[first]), next(clip.frames[std::min(first + 1, clip.frames.size() - 1)]);
    const Vec3 moved = clip.middle - smoke_.position;
    moved_ = std::exchange(active_, std::vector<char>(active_.size(), 0));
    const int rows = size_.blocks_y() * size_.blocks_z();
    each_slice(size_.cells(), rows, [&](int row) { // of blocks: no two write the same
        const int y0 = row % size_.blocks_y() * smoke_block, z0 = row / size_.blocks_y() * smoke_block;
        for (int cell = 0; cell < smoke_block * smoke_block; ++cell) {
            const int y = y0 + cell % smoke_block, z = z0 + cell / smoke_block;
            for (int x = 0; x < size_.x; ++x) {
                const Vec3 place = size_.middle(x, y, z) + moved;
                SmokeCell shown = now.at(place);
                if (share > 0) {
                    const SmokeCell later = next.at(place);
                    shown.density += (later.density - shown.density) * share;
                    shown.heat += (later.heat - shown.heat) * share;
                }
                cells_[size_.packed(x, y, z)] = shown;
                if (shown.density > 0 || shown.heat > 0) {
                    active_[size_t(size_.block_of(x, y, z))] = 1;
                }
            }
        }
    });
    meter_.active_cells =
        size_t(std::count(active_.begin(), active_.end(), 1)) * smoke_block * smoke_block * smoke_block;
}

} // namespace ember
