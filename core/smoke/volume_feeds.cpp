// What is put into a volume, and how hands push it.
#include "core/base/hash.h"
#include "core/smoke/obstacles.h"
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// How far a cell with this middle is within a shape, faded over a cell.
float share_within(const SmokeFeed& feed, const Vec3& place, float cell) {
    const Vec3 p = feed.place.in(place);
    float distance = 0;
    if (feed.shape == FeedShape::ball) {
        // An ellipsoid's distance, exact on its axes.
        const Vec3 scaled = {p.x / feed.half_size.x, p.y / feed.half_size.y, p.z / feed.half_size.z};
        const float least = std::min({feed.half_size.x, feed.half_size.y, feed.half_size.z});
        distance = (std::sqrt(dot(scaled, scaled)) - 1) * least;
    } else {
        distance = std::max({std::fabs(p.x) - feed.half_size.x, std::fabs(p.y) - feed.half_size.y,
                             std::fabs(p.z) - feed.half_size.z});
    }
    const float wide = feed.soft * std::min({feed.half_size.x, feed.half_size.y, feed.half_size.z});
    if (wide <= cell) {
        return std::clamp(0.5f - distance / cell, 0.0f, 1.0f);
    }
    const float share = std::clamp(-distance / wide, 0.0f, 1.0f);
    return share * share * (3 - 2 * share);
}

// Smooth in space and time, 0..1.
float lumps(const Vec3& place, double time_s, uint32_t seed) {
    const auto wave = [&](float along, uint32_t which) {
        const float phase = float(mixed_seed(seed, which) >> 8) / 16777216.0f * 6.2831853f;
        return std::sin(along + phase + float(std::fmod(time_s, 1000.0)) * (1.1f + 0.37f * float(which)));
    };
    const float sum = wave(place.x * 9.1f + place.z * 3.3f, 0) + wave(place.z * 8.3f - place.y * 4.1f, 1) +
                      wave(place.x * 17.9f - place.z * 5.7f, 2) + wave(place.z * 19.3f + place.x * 7.9f, 3);
    return std::clamp(0.5f + sum * 0.28f, 0.0f, 1.0f);
}

} // namespace

// Applies `change(cell, place)` to all cells in a box that are not solid.
template <class Change>
void SmokeVolume::change_within(const Vec3& low, const Vec3& high, Change change) {
    const auto cell_at = [&](float place, float from, int count) {
        return int(std::clamp((place - from) / size_.cell, 0.0f, float(count)));
    };
    const int x0 = cell_at(low.x, size_.low.x, size_.x),
              x1 = cell_at(high.x + size_.cell, size_.low.x, size_.x);
    const int y0 = cell_at(low.y, size_.low.y, size_.y),
              y1 = cell_at(high.y + size_.cell, size_.low.y, size_.y);
    const int z0 = cell_at(low.z, size_.low.z, size_.z),
              z1 = cell_at(high.z + size_.cell, size_.low.z, size_.z);
    // A change takes as long as several of a step's loops.
    const size_t work = 8 * size_t(x1 - x0) * size_t(y1 - y0) * size_t(z1 - z0);
    each_slice(work, z1 - z0, [&](int part) {
        const int z = z0 + part;
        for (int y = y0; y < y1; ++y) {
            for (int x = x0; x < x1; ++x) {
                if (solid_[size_.at(x, y, z)] == 0) {
                    change(next_[size_.packed(x, y, z)], size_.middle(x, y, z));
                }
            }
        }
    });
}

namespace {

struct Reached {
    Vec3 low, high;
};

Reached reach_of_feed(const SmokeFeed& feed, float cell) {
    if (feed.shape == FeedShape::particles) {
        Reached box = {{1e9f, 1e9f, 1e9f}, {-1e9f, -1e9f, -1e9f}};
        for (const auto& [p, velocity, density, heat] : feed.particles) {
            box.low = {std::min(box.low.x, p.x), std::min(box.low.y, p.y), std::min(box.low.z, p.z)};
            box.high = {std::max(box.high.x, p.x), std::max(box.high.y, p.y), std::max(box.high.z, p.z)};
        }
        return box;
    }
    const Axes& axes = feed.place.axes;
    const auto along = [&](float x, float y, float z) {
        return std::fabs(x) * feed.half_size.x + std::fabs(y) * feed.half_size.y +
               std::fabs(z) * feed.half_size.z + cell;
    };
    const Vec3 half = {along(axes.x.x, axes.y.x, axes.z.x), along(axes.x.y, axes.y.y, axes.z.y),
                       along(axes.x.z, axes.y.z, axes.z.z)};
    return {feed.place.position - half, feed.place.position + half};
}

Reached reach_of_push(const SmokePush& push) {
    const float r = push.radius + push.fade_distance;
    return {push.position - Vec3{r, r, r}, push.position + Vec3{r, r, r}};
}

} // namespace

// Blocks that hold something, those round them, and those that something is put into.
void SmokeVolume::mark_active(const SmokeInfluences& influences) {
    const std::vector<char> holds = active_; // left by the last act()
    std::fill(active_.begin(), active_.end(), char(0));
    const int bx = size_.blocks_x(), by = size_.blocks_y(), bz = size_.blocks_z();
    const auto mark = [&](int x0, int y0, int z0, int x1, int y1, int z1) {
        for (int z = std::max(z0, 0); z <= std::min(z1, bz - 1); ++z) {
            for (int y = std::max(y0, 0); y <= std::min(y1, by - 1); ++y) {
                for (int x = std::max(x0, 0); x <= std::min(x1, bx - 1); ++x) {
                    active_[size_t((z * by + y) * bx + x)] = 1;
                }
            }
        }
    };
    for (int z = 0; z < bz; ++z) {
        for (int y = 0; y < by; ++y) {
            for (int x = 0; x < bx; ++x) {
                if (holds[size_t((z * by + y) * bx + x)] != 0) {
                    mark(x - 1, y - 1, z - 1, x + 1, y + 1, z + 1);
                }
            }
        }
    }
    const auto mark_box = [&](const Reached& box) {
        const float block = size_.cell * smoke_block;
        const auto index = [&](float place, float from) {
            return int(std::clamp((place - from) / block, -1.0f, 1e4f));
        };
        mark(index(box.low.x, size_.low.x), index(box.low.y, size_.low.y), index(box.low.z, size_.low.z),
             index(box.high.x, size_.low.x), index(box.high.y, size_.low.y), index(box.high.z, size_.low.z));
    };
    for (const SmokeFeed& feed : influences.feeds) {
        mark_box(reach_of_feed(feed, size_.cell));
    }
    for (const SmokePush& push : influences.pushes) {
        mark_box(reach_of_push(push));
    }
    active_runs_.clear();
    for (int z = 0; z < bz; ++z) {
        for (int y = 0; y < by; ++y) {
            for (int x = 0; x < bx; ++x) {
                if (active_[size_t((z * by + y) * bx + x)] == 0) {
                    continue;
                }
                const int low = x * smoke_block, high = low + smoke_block;
                const bool goes_on = !active_runs_.empty() && active_runs_.back().end == low &&
                                     active_runs_.back().y == y * smoke_block &&
                                     active_runs_.back().z == z * smoke_block;
                if (goes_on) {
                    active_runs_.back().end = high;
                } else {
                    active_runs_.push_back({low, high, y * smoke_block, z * smoke_block});
                }
            }
        }
    }
}

void SmokeVolume::feed_with(const SmokeFeed& feed, double step_s, double time_s) {
    const auto step = float(step_s);
    const float grip = 1 - std::exp(-20 * step);
    // `density`, `heat`: what the cell is given.
    const auto fill = [&](SmokeCell& cell, float share, float density, float heat, const Vec3& velocity) {
        // Densities are yet to be multiplied by what was restored.
        if (feed.way == FeedWay::add) {
            cell.density += density * step / restored_;
            cell.heat += heat * step;
        } else {
            cell.density = std::max(cell.density, density / restored_);
            cell.heat = std::max(cell.heat, heat);
        }
        if (feed.moves) {
            for (int axis = 0; axis < 3; ++axis) {
                const float wanted = axis == 0 ? velocity.x : axis == 1 ? velocity.y : velocity.z;
                cell.velocity[axis] += (wanted - cell.velocity[axis]) * share * grip;
            }
        }
    };
    if (feed.shape == FeedShape::particles) {
        // Each gives to the eight cells round it.
        for (const FeedingParticle& particle : feed.particles) {
            const Vec3 at = (particle.place - size_.low) / size_.cell - Vec3{0.5f, 0.5f, 0.5f};
            const bool is_in = at.x > -1 && at.y > -1 && at.z > -1 && at.x < float(size_.x) &&
                               at.y < float(size_.y) && at.z < float(size_.z);
            if (!is_in) {
                continue;
            }
            const int i = int(at.x + 1) - 1, j = int(at.y + 1) - 1, k = int(at.z + 1) - 1;
            const float fx = at.x - float(i), fy = at.y - float(j), fz = at.z - float(k);
            for (int corner = 0; corner < 8; ++corner) {
                const int x = i + (corner & 1), y = j + (corner >> 1 & 1), z = k + (corner >> 2);
                const bool holds = x >= 0 && y >= 0 && z >= 0 && x < size_.x && y < size_.y && z < size_.z &&
                                   solid_[size_.at(x, y, z)] == 0;
                if (holds) {
                    const float share = ((corner & 1) != 0 ? fx : 1 - fx) *
                                        ((corner & 2) != 0 ? fy : 1 - fy) * ((corner & 4) != 0 ? fz : 1 - fz);
                    fill(next_[size_.packed(x, y, z)], share, feed.density * particle.density * share,
                         feed.heat * particle.heat * share, feed.velocity + particle.velocity);
                }
            }
        }
        return;
    }
    const Reached box = reach_of_feed(feed, size_.cell);
    change_within(box.low, box.high, [&](SmokeCell& cell, const Vec3& place) {
        const float share = share_within(feed, place, size_.cell);
        if (share > 0) {
            const float lumpy =
                feed.ragged > 0 ? 1 - feed.ragged * (1 - lumps(place, time_s, feed.seed)) : 1.0f;
            fill(cell, share, feed.density * share * lumpy, feed.heat * share * lumpy, feed.velocity);
        }
    });
}

void SmokeVolume::push_with(const SmokePush& push, double step_s) {
    const float grip = 1 - std::exp(-push.grip * float(step_s));
    const Reached box = reach_of_push(push);
    const float wanted[3] = {push.velocity.x, push.velocity.y, push.velocity.z};
    change_within(box.low, box.high, [&](SmokeCell& cell, const Vec3& place) {
        const Vec3 off = place - push.position;
        const float beyond = std::sqrt(dot(off, off)) - push.radius;
        const float share = std::clamp(1 - beyond / std::max(push.fade_distance, 1e-4f), 0.0f, 1.0f) * grip;
        for (int axis = 0; axis < 3; ++axis) {
            cell.velocity[axis] += (wanted[axis] - cell.velocity[axis]) * share;
        }
    });
}

// Gas that seeps through takes on the motion of what it is in, the sooner the tighter that is.
void SmokeVolume::slow_within(const ColliderRow& porous, double step_s) {
    constexpr float half_tight = 20; // 1/s, at a share of a half
    const float rate = half_tight * porous.share / std::max(1 - porous.share, 1e-3f);
    const float taken = 1 - std::exp(-rate * float(step_s));
    const CellBox box = reach_of_obstacle(porous, size_);
    const auto corner = [&](const int(&cell)[3]) {
        return size_.low + Vec3{float(cell[0]), float(cell[1]), float(cell[2])} * size_.cell;
    };
    change_within(corner(box.low), corner(box.high), [&](SmokeCell& cell, const Vec3& place) {
        if (distance_to(porous, place) < 0) {
            const Vec3 wanted = velocity_of(porous, place);
            cell.velocity[0] += (wanted.x - cell.velocity[0]) * taken;
            cell.velocity[1] += (wanted.y - cell.velocity[1]) * taken;
            cell.velocity[2] += (wanted.z - cell.velocity[2]) * taken;
        }
    });
}

void SmokeVolume::feed(const SmokeInfluences& influences, double step_s) {
    for (const SmokeFeed& feed : influences.feeds) {
        feed_with(feed, step_s, influences.time_s);
    }
    for (const SmokePush& push : influences.pushes) {
        push_with(push, step_s);
    }
    for (const ColliderRow& porous : influences.porous) {
        slow_within(porous, step_s);
    }
}

} // namespace ember
