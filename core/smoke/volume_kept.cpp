// A volume of smoke as what its next steps depend on, and back.
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

namespace ember {

size_t SmokeVolume::Kept::bytes() const {
    size_t floats = density.size() + heat.size() + pressure.made.size() + pressure.more.size() +
                    pressure.way.size() + pressure.remains.size();
    for (const FloatCells& plane : faces) {
        floats += plane.size();
    }
    return sizeof(Kept) + floats * sizeof(float) + solid.size() * sizeof(uint16_t) +
           obstacles.size() * sizeof(ColliderRow) + active.size() + moved.size();
}

SmokeVolume::Kept SmokeVolume::kept() const {
    Kept kept;
    kept.smoke = smoke_;
    kept.is_set = is_set_;
    kept.is_still = is_still_;
    kept.size = size_;
    kept.density.resize(size_.cells());
    kept.heat.resize(size_.cells());
    each_row(size_, [&](int y, int z) {
        const SmokeCell* row = cells_.data() + size_.packed(0, y, z);
        const size_t first = (size_t(z) * size_t(size_.y) + size_t(y)) * size_t(size_.x);
        for (int x = 0; x < size_.x; ++x) {
            kept.density[first + size_t(x)] = row[x].density;
            kept.heat[first + size_t(x)] = row[x].heat;
        }
    });
    std::copy(std::begin(faces_), std::end(faces_), kept.faces);
    kept.solid = solid_;
    kept.obstacles = obstacles_;
    kept.active = active_;
    kept.moved = moved_;
    kept.restored = restored_;
    kept.thin = thin_;
    kept.pressure = pressure_.kept();
    kept.meter = meter_;
    return kept;
}

void SmokeVolume::restore(const Kept& kept) {
    smoke_ = kept.smoke;
    is_set_ = kept.is_set;
    size_ = kept.size;
    clear();
    is_still_ = kept.is_still;
    each_row(size_, [&](int y, int z) {
        SmokeCell* row = cells_.data() + size_.packed(0, y, z);
        const size_t first = (size_t(z) * size_t(size_.y) + size_t(y)) * size_t(size_.x);
        for (int x = 0; x < size_.x; ++x) {
            row[x].density = kept.density[first + size_t(x)];
            row[x].heat = kept.heat[first + size_t(x)];
        }
    });
    next_ = cells_; // still blocks are not copied from the one to the other: see copy_still()
    std::copy(std::begin(kept.faces), std::end(kept.faces), faces_);
    solid_ = kept.solid;
    obstacles_ = kept.obstacles;
    active_ = kept.active;
    moved_ = kept.moved;
    restored_ = kept.restored;
    thin_ = kept.thin;
    meter_ = kept.meter;
    if (is_set_) {
        open_faces(CellBox::whole(size_));
        pressure_.restore(kept.pressure);
        each_slice(size_.cells(), size_.z, reading_flow());
    }
}

} // namespace ember
