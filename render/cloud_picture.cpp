#include "render/cloud_picture.h"

#include "core/base/stopwatch.h"

#include <oneapi/tbb/enumerable_thread_specific.h>
#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

void CloudGrid::resize(int new_x, int new_y, int new_z) {
    x = new_x;
    y = new_y;
    z = new_z;
    cells.assign(slice() * size_t(z + 2), CloudCell());
}

namespace {

constexpr float least_density = 4e-3f; // what is thinner is not seen
constexpr int block = smoke_block;

// Of light that goes on at this cosine to where it came from, per steradian times 4 pi (L. Henyey, J.
// Greenstein, 1941).
float phase(float cosine, float forward) {
    const float g = forward;
    const float below = 1 + g * g - 2 * g * cosine;
    return (1 - g * g) / (below * std::sqrt(below));
}

// Towards sides that smoke leaves by it thins out, so that no edge of the bound is seen.
float within_sides(int place, int count, bool opens_low, bool opens_high) {
    constexpr float over = 5; // cells
    const float low = opens_low ? (float(place) + 0.5f) / over : 1.0f;
    const float high = opens_high ? (float(count - place) - 0.5f) / over : 1.0f;
    return std::min({low, high, 1.0f});
}

} // namespace

struct CloudPicture::Light {
    const Lighting& lighting;
    StageScene scene; // what keeps light away
    Vec3 eye;
};

// What each cell takes and glows with, and which blocks hold any.
void CloudPicture::fill(const FrameSmoke& smoke, const Smoke& look, const Light& light, CloudVolume& volume) {
    const SmokeSize& size = smoke.size;
    volume.low = size.low;
    volume.cell = size.cell;
    volume.blocks_x = size.blocks_x();
    volume.blocks_y = size.blocks_y();
    volume.full.assign(size_t(size.blocks()), 0);
    if (volume.grid.x != size.x || volume.grid.y != size.y || volume.grid.z != size.z) {
        volume.grid.resize(size.x, size.y, size.z);
    }
    const LifeTable<Colour> glow = sampled(look.glow_ramp);
    std::vector<char> holds(volume.full.size(), 0);
    tbb::parallel_for(0, size.z, [&](int z) {
        const bool opens = look.sides != SmokeSides::closed;
        const float in_z = within_sides(z, size.z, opens, opens);
        for (int y = 0; y < size.y; ++y) {
            const float in_y = in_z * within_sides(y, size.y, look.sides == SmokeSides::open, opens);
            const size_t first = (size_t(z) * size_t(size.y) + size_t(y)) * size_t(size.x);
            CloudCell* row = volume.grid.cells.data() + volume.grid.at(0, y, z);
            for (int x = 0; x < size.x; ++x) {
                const float density =
                    smoke.density[first + size_t(x)] * in_y * within_sides(x, size.x, opens, opens);
                CloudCell& cell = row[x];
                cell = {};
                if (density < least_density) {
                    continue;
                }
                cell.thin = density * look.absorption;
                if (!smoke.heat.empty()) {
                    const Colour hot =
                        glow.at(std::clamp(smoke.heat[first + size_t(x)] / look.glow_heat, 0.0f, 1.0f));
                    const float by = look.glow * density;
                    cell.red = hot.red * by;
                    cell.green = hot.green * by;
                    cell.blue = hot.blue * by;
                }
            }
        }
    });
    tbb::parallel_for(0, size.blocks_z(), [&](int bz) {
        for (int by = 0; by < size.blocks_y(); ++by) {
            for (int bx = 0; bx < size.blocks_x(); ++bx) {
                // With a cell more on each side, since rays read between cells.
                bool is_full = false;
                for (int z = bz * block - 1; z <= (bz + 1) * block && !is_full; ++z) {
                    for (int y = by * block - 1; y <= (by + 1) * block && !is_full; ++y) {
                        if (z < -1 || y < -1 || z > size.z || y > size.y) {
                            continue;
                        }
                        const CloudCell* row =
                            volume.grid.cells.data() + volume.grid.at(bx * block - 1, y, z);
                        is_full =
                            std::any_of(row, row + block + 2, [](const CloudCell& c) { return c.thin > 0; });
                    }
                }
                volume.full[size_t((bz * size.blocks_y() + by) * size.blocks_x() + bx)] = is_full ? 1 : 0;
            }
        }
    });
    shade(smoke, look, light, volume);
    tbb::parallel_for(0, size.z, [&](int z) {
        for (int y = 0; y < size.y; ++y) {
            kernels_.shine(light_, volume.grid, y, z);
        }
    });
}

namespace {

// A row of cells that light arrives in, and how much of each light does past what stands on the stage.
struct LitRow {
    std::vector<char> matters;
    std::vector<float> x, y, z;  // m
    std::vector<float> shares;   // of the lamp that is looked at
    std::vector<Vec3> sums;      // of the light so far
    std::vector<double> lamp_ms; // what each took
    double whole_ms = 0;

    LitRow(int count, size_t lamps) : matters(size_t(count)), sums(size_t(count)), lamp_ms(lamps) {
        const size_t whole = size_t(count) + 16; // to whole registers
        for (std::vector<float>* each : {&x, &y, &z, &shares}) {
            each->resize(whole);
        }
    }
};

} // namespace

// Light that arrives in cells twice as wide: from the sky, and from each lamp what the smoke on its way
// leaves of it.
void CloudPicture::shade(const FrameSmoke& smoke, const Smoke& look, const Light& light,
                         const CloudVolume& volume) {
    const Lighting& lighting = light.lighting;
    const SmokeSize& size = smoke.size;
    const int nx = size.x / 2, ny = size.y / 2, nz = size.z / 2;
    const float wide = size.cell * 2;
    coarse_.resize(size_t(nx) * size_t(ny) * size_t(nz));
    if (light_.x != nx || light_.y != ny || light_.z != nz) {
        light_.resize(nx, ny, nz);
    }
    const auto index = [&](int x, int y, int z) {
        return (size_t(z) * size_t(ny) + size_t(y)) * size_t(nx) + size_t(x);
    };
    tbb::parallel_for(0, nz, [&](int z) {
        for (int y = 0; y < ny; ++y) {
            for (int x = 0; x < nx; ++x) {
                float sum = 0;
                for (int corner = 0; corner < 8; ++corner) {
                    sum += volume.grid
                               .cells[volume.grid.at(2 * x + (corner & 1), 2 * y + (corner >> 1 & 1),
                                                     2 * z + (corner >> 2))]
                               .thin;
                }
                coarse_[index(x, y, z)] = sum * 0.125f;
            }
        }
    });
    // What is left of light that comes from a direction, or from so far off.
    const auto left = [&](const Vec3& place, const Vec3& towards, float distance) {
        if (look.shadow <= 0) {
            return 1.0f;
        }
        // Steps grow on the way: what is far off need not be met so exactly.
        constexpr float first_step = 1.5f, growth = 1.25f; // cells, factor
        float sum = 0, step = first_step * wide;
        for (float way = step * 0.6f; way < distance; way += step * 0.5f) {
            const Vec3 at = (place + towards * way - size.low) * (1 / wide) - Vec3{0.5f, 0.5f, 0.5f};
            const bool is_in = at.x > -1 && at.y > -1 && at.z > -1 && at.x < float(nx) && at.y < float(ny) &&
                               at.z < float(nz);
            if (!is_in) {
                break;
            }
            // The nearest cell will do: what arrives is smoothed between cells afterwards.
            const auto nearest = [](float v, int count) {
                return std::min(int(std::max(v, 0.0f) + 0.5f), count - 1);
            };
            sum += coarse_[index(nearest(at.x, nx), nearest(at.y, ny), nearest(at.z, nz))] * step;
            if (sum > 6) {
                break;
            }
            way += step * 0.5f;
            step *= growth;
        }
        return std::exp(-sum * look.shadow);
    };
    // Whether a cell or one beside it takes any light: only there it matters how much arrives.
    const auto is_near_smoke = [&](int x, int y, int z) {
        for (int k = std::max(z - 1, 0); k <= std::min(z + 1, nz - 1); ++k) {
            for (int j = std::max(y - 1, 0); j <= std::min(y + 1, ny - 1); ++j) {
                for (int i = std::max(x - 1, 0); i <= std::min(x + 1, nx - 1); ++i) {
                    if (coarse_[index(i, j, k)] > 0) {
                        return true;
                    }
                }
            }
        }
        return false;
    };
    const Vec3 colour = rgb(look.colour);
    // An even sky arrives from all sides; a sphere of it sends its light times 4 pi, of which each cell
    // scatters 1 / (4 pi). Lamps and the sun are told as on a surface that faces them, hence 1 / pi.
    const Vec3 sky = (lighting.sky_top + lighting.sky_horizon) * 0.5f;
    constexpr float of_surface = 1 / (4 * std::numbers::pi_v<float>)*std::numbers::pi_v<float>;
    const bool has_sun = lighting.sun_light != Vec3();
    const Stopwatch watch;
    tbb::enumerable_thread_specific<LitRow> rows([&] { return LitRow(nx, lighting.lamps.size()); });
    tbb::parallel_for(0, nz, [&](int z) {
        LitRow& row = rows.local();
        const Stopwatch whole;
        for (int y = 0; y < ny; ++y) {
            const int by = y / (block / 2), bz = z / (block / 2);
            bool is_any = false;
            for (int x = 0; x < nx; ++x) {
                const size_t in_block =
                    size_t((bz * size.blocks_y() + by) * size.blocks_x() + x / (block / 2));
                row.matters[size_t(x)] = volume.full[in_block] != 0 && is_near_smoke(x, y, z);
                is_any = is_any || row.matters[size_t(x)] != 0;
            }
            if (!is_any) {
                continue;
            }
            const auto place_of = [&](int x) {
                return size.low + Vec3{float(x) + 0.5f, float(y) + 0.5f, float(z) + 0.5f} * wide;
            };
            for (int x = 0; x < nx; ++x) {
                const Vec3 place = place_of(x);
                row.x[size_t(x)] = place.x;
                row.y[size_t(x)] = place.y;
                row.z[size_t(x)] = place.z;
            }
            // Adds a lamp's light, or the sun's, in each cell: `arrive(place, towards, distance)` says how
            // much would without smoke.
            const auto add = [&](const Vec3* lamp, bool has_shadows, auto arrive) {
                if (has_shadows) {
                    stage_kernels_.arrives_row(light.scene, lamp, row.x.data(), row.y.data(), row.z.data(),
                                               nx, row.shares.data());
                }
                for (int x = 0; x < nx; ++x) {
                    const float share = has_shadows ? row.shares[size_t(x)] : 1;
                    if (row.matters[size_t(x)] == 0 || share <= 0) {
                        continue;
                    }
                    const Vec3 place = place_of(x);
                    Vec3 towards;
                    float distance = 1e9f;
                    const Vec3 arrives = arrive(place, towards, distance);
                    if (arrives != Vec3()) {
                        const Vec3 to_eye = normalized(light.eye - place, {0, 1, 0});
                        const float by_angle = phase(-dot(towards, to_eye), look.forward) * of_surface;
                        row.sums[size_t(x)] += arrives * (share * by_angle * left(place, towards, distance));
                    }
                }
            };
            row.sums.assign(size_t(nx), sky);
            if (has_sun) {
                add(nullptr, true, [&](const Vec3&, Vec3& towards, float&) {
                    towards = lighting.sun_direction;
                    return lighting.sun_light;
                });
            }
            for (size_t i = 0; i < lighting.lamps.size(); ++i) {
                const FrameLight& lamp = lighting.lamps[i];
                const Stopwatch own;
                add(&lamp.position, lamp.shadows, [&](const Vec3& place, Vec3& towards, float& distance) {
                    distance = length(lamp.position - place);
                    return arriving(lamp, place, towards);
                });
                row.lamp_ms[i] += own.elapsed_ms();
            }
            for (int x = 0; x < nx; ++x) {
                if (row.matters[size_t(x)] != 0) {
                    const Vec3 sum = row.sums[size_t(x)] * colour;
                    light_.cells[light_.at(x, y, z)] = {sum.x, sum.y, sum.z, 0};
                }
            }
        }
        row.whole_ms += whole.elapsed_ms();
    });
    double whole_ms = 1e-9;
    rows.combine_each([&](const LitRow& row) { whole_ms += row.whole_ms; });
    const double scale = watch.elapsed_ms() / whole_ms;
    rows.combine_each([&](const LitRow& row) {
        for (size_t i = 0; i < row.lamp_ms.size(); ++i) {
            lamp_ms_[i] += row.lamp_ms[i] * scale;
        }
    });
    // Cells at the sides are lit on to the rim.
    tbb::parallel_for(-1, nz + 1, [&](int z) {
        const bool is_end = z < 0 || z == nz;
        for (int y = -1; y <= ny; ++y) {
            const bool is_whole = is_end || y < 0 || y == ny;
            for (int x = -1; x <= nx; x += is_whole ? 1 : nx + 1) {
                light_.cells[light_.at(x, y, z)] = light_.cells[light_.at(
                    std::clamp(x, 0, nx - 1), std::clamp(y, 0, ny - 1), std::clamp(z, 0, nz - 1))];
            }
        }
    });
}

// The part of the picture that volumes are seen in, and the depths that they reach over. False if none is.
bool CloudPicture::frame_map(const Projection& to, float detail) {
    float left = 1e9f, right = -1e9f, top = 1e9f, bottom = -1e9f, near = 1e9f, far = 0;
    bool is_behind = false;
    for (const auto& volume : volumes_) {
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 place = volume->low + Vec3{float(corner & 1) * float(volume->grid.x),
                                                  float(corner >> 1 & 1) * float(volume->grid.y),
                                                  float(corner >> 2) * float(volume->grid.z)} *
                                                 volume->cell;
            const Vec3 away = place - to.view.eye;
            const float depth = dot(away, to.view.forward);
            far = std::max(far, depth);
            near = std::min(near, depth);
            if (depth < 0.05f) {
                is_behind = true;
                continue;
            }
            const float scale = to.pixels / depth;
            const float x = to.middle_x + dot(away, to.view.right) * scale,
                        y = to.middle_y - dot(away, to.view.up) * scale;
            left = std::min(left, x);
            right = std::max(right, x);
            top = std::min(top, y);
            bottom = std::max(bottom, y);
        }
    }
    if (far < 0.05f) {
        return false;
    }
    if (is_behind) {
        left = top = 0;
        right = to.right;
        bottom = to.bottom;
    }
    left = std::max(left, 0.0f);
    top = std::max(top, 0.0f);
    right = std::min(right, to.right);
    bottom = std::min(bottom, to.bottom);
    if (left >= right || top >= bottom) {
        return false;
    }
    map_.pixels = 1 / detail;
    map_.left = int(left / map_.pixels);
    above_ = to.above;
    map_.top = int((top + float(above_)) / map_.pixels);
    map_.near = std::max(near, 0.05f);
    map_.depth = std::max(far - map_.near, 1e-3f) / CloudMap::slices;
    const int width = int(right / map_.pixels) + 1 - map_.left,
              height = int((bottom + float(above_)) / map_.pixels) + 1 - map_.top;
    if (map_.grid.x != width || map_.grid.y != height) {
        map_.grid.resize(width, height, CloudMap::slices + 1);
    }
    return true;
}

void CloudPicture::share_out(double ms, std::span<const FrameLight> lamps,
                             std::vector<double>& element_ms) const {
    for (size_t i = 0; i < lamps.size(); ++i) {
        element_ms[lamps[i].element] += lamp_ms_[i];
        ms -= lamp_ms_[i];
    }
    double cells = 0;
    for (const Filled& volume : filled_) {
        cells += double(volume.size.cells());
    }
    for (const Filled& volume : filled_) {
        element_ms[volume.element] += ms * double(volume.size.cells()) / cells;
    }
}

void CloudPicture::draw(const Frame& frame, const Effect& effect, const Lighting& lighting,
                        const Projection& to, const StagePicture& stage) {
    const FloatPlane& depth = stage.depth();
    const int stride = stage.light().stride;
    const Light light = {lighting, stage.scene(), to.view.eye};
    lamp_ms_.assign(lighting.lamps.size(), 0);
    size_t count = 0;
    float detail = 0.1f;
    for (const auto& held : frame.smokes) {
        const FrameSmoke& smoke = *held;
        // The look may be newer than the frame.
        const Element* element = find_element(effect, frame.effect->elements[smoke.element].id);
        const auto* look = element != nullptr ? std::get_if<Smoke>(&element->body) : nullptr;
        if (look == nullptr || element->muted) {
            continue;
        }
        if (count == volumes_.size()) {
            volumes_.push_back(std::make_unique<CloudVolume>());
            filled_.emplace_back();
        }
        // Between two of its moves a cloud keeps the light of the last: only in a run, where the next is
        // near.
        const Filled now = {frame.step, smoke.moves, smoke.size, *look, smoke.element};
        Filled& last = filled_[count];
        const bool is_kept =
            now.step > last.step && now.moves == last.moves && now.size == last.size && now.look == last.look;
        if (!is_kept) {
            fill(smoke, *look, light, *volumes_[count]);
        }
        last = now;
        ++count;
        detail = std::max(detail, look->detail);
    }
    volumes_.resize(count);
    filled_.resize(count);
    is_on_ = count > 0 && frame_map(to, detail);
    if (!is_on_) {
        return;
    }
    const CloudView view = {to.view.eye,
                            to.view.forward,
                            to.view.right * (1 / to.pixels),
                            to.view.up * (-1 / to.pixels),
                            to.middle_x,
                            to.middle_y + float(to.above)};
    const int last_x = int(to.right) - 1, last_y = int(to.bottom) - 1;
    // Rays beside one another meet the same cells: tiles of them stay in a core's cache.
    constexpr int wide = 16, high = 16;
    const int across = (map_.grid.x + wide - 1) / wide, down = (map_.grid.y + high - 1) / high;
    tbb::parallel_for(0, across * down, [&](int tile) {
        const int left = tile % across * wide, right = std::min(left + wide, map_.grid.x);
        const int top = tile / across * high, bottom = std::min(top + high, map_.grid.y);
        std::vector<float> farthest(size_t(map_.grid.x));
        for (int row = top; row < bottom; ++row) {
            // As deep as the deepest of the pixels that a ray stands for.
            std::fill(farthest.begin() + left, farthest.begin() + right, 0.0f);
            for (int part_y = 0; part_y < 3; ++part_y) {
                const float y = (float(map_.top + row) + 0.5f * float(part_y)) * map_.pixels;
                const size_t from = size_t(std::clamp(int(y) - above_, 0, last_y)) * size_t(stride);
                for (int column = left; column < right; ++column) {
                    for (int part_x = 0; part_x < 3; ++part_x) {
                        const float x = (float(map_.left + column) + 0.5f * float(part_x)) * map_.pixels;
                        float& most = farthest[size_t(column)];
                        most = std::max(most, depth[from + size_t(std::clamp(int(x), 0, last_x))]);
                    }
                }
            }
            kernels_.march(volumes_, view, map_, row, left, right, farthest.data());
        }
    });
    // The map's rim goes on as its sides do.
    tbb::parallel_for(0, CloudMap::slices + 1, [&](int slice) {
        CloudGrid& grid = map_.grid;
        for (int y = -1; y <= grid.y; ++y) {
            const bool is_whole = y < 0 || y == grid.y;
            for (int x = -1; x <= grid.x; x += is_whole ? 1 : grid.x + 1) {
                grid.cells[grid.at(x, y, slice)] =
                    grid.cells[grid.at(std::clamp(x, 0, grid.x - 1), std::clamp(y, 0, grid.y - 1), slice)];
            }
        }
    });
}

float CloudPicture::kept(float x, float y, float depth) const {
    const CloudGrid& grid = map_.grid;
    const int i = std::clamp(int(x / map_.pixels) - map_.left, -1, grid.x);
    const int j = std::clamp(int((y + float(above_)) / map_.pixels) - map_.top, -1, grid.y);
    const float slice = std::clamp((depth - map_.near) / map_.depth, 0.0f, float(CloudMap::slices) - 0.001f);
    const int k = int(slice);
    const float a = grid.cells[grid.at(i, j, k)].thin, b = grid.cells[grid.at(i, j, k + 1)].thin;
    return a + (b - a) * (slice - float(k));
}

void CloudPicture::blend_row(int y, int left, int right, const float* depth, float* red, float* green,
                             float* blue) const {
    const Area area = seen();
    if (float(y) >= area.top && float(y) < area.bottom) {
        kernels_.blend(map_, y + above_, std::max(left, int(area.left)), std::min(right, int(area.right)),
                       depth, red, green, blue);
    }
}

bool CloudPicture::is_in(const Tile& tile) const {
    const Area area = seen();
    return is_on() && float(tile.right) > area.left &&
           float(tile.left)<area.right&& float(tile.bottom)> area.top && float(tile.top) < area.bottom;
}

CloudPicture::Area CloudPicture::seen() const {
    const float above = float(above_);
    return {float(map_.left) * map_.pixels, float(map_.top) * map_.pixels - above,
            float(map_.left + map_.grid.x) * map_.pixels,
            float(map_.top + map_.grid.y) * map_.pixels - above};
}

size_t CloudPicture::bytes() const {
    size_t cells = light_.cells.size() + map_.grid.cells.size();
    for (const auto& volume : volumes_) {
        cells += volume->grid.cells.size();
    }
    return cells * sizeof(CloudCell) + coarse_.size() * sizeof(float);
}

} // namespace ember
