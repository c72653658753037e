#include "core/assets/assets.h"

#include "core/effect/parameter.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

namespace ember {

namespace {

struct Needs {
    const std::string& id;
    uint32_t effect_seed;
    std::vector<AssetNeed> list;

    void add(AssetKind kind, const char* parameter, const std::string& file, int cells = 0, float cell = 0) {
        if (!file.empty()) {
            list.push_back({kind, id, parameter, file, cell, cells, 0, nullptr});
        }
    }

    void operator()(const Emitter& e) {
        if (e.shape == BirthShape::mesh) {
            add(AssetKind::mesh, "mesh", e.mesh);
        } else if (e.shape == BirthShape::clip) {
            add(AssetKind::clip, "clip", e.clip);
        }
    }
    void operator()(const GridFlow& g) {
        if (g.grid == FlowGrid::file) {
            add(AssetKind::vectors, "file", g.file, g.resolution);
        } else if (g.grid == FlowGrid::mesh) {
            add(AssetKind::distances, "mesh", g.mesh, g.resolution);
        }
    }
    void operator()(const HeightMap& h) {
        if (h.from == HeightsFrom::image) {
            add(AssetKind::heights, "image", h.image);
        }
    }
    void operator()(const MeshCollider& m) {
        add(AssetKind::distances, "mesh", m.mesh, m.resolution,
            m.area > 0 ? m.area / m.scale / float(m.resolution) : 0.0f);
    }
    void operator()(const Smoke& s) { add(AssetKind::smoke_clip, "clip", s.clip, s.clip_volume); }
    void operator()(const Breakable& b) {
        if (!b.clip.empty()) {
            return add(AssetKind::piece_clip, "clip", b.clip);
        }
        const bool is_mesh = b.shape == BreakShape::mesh;
        if (!is_mesh || !b.mesh.empty()) {
            list.push_back({AssetKind::cut, id, is_mesh ? "mesh" : "pieces", is_mesh ? b.mesh : "", 0, 0,
                            b.own_seed == 0 ? effect_seed : uint32_t(b.own_seed),
                            std::make_shared<const Breakable>(b)});
        }
    }
    void operator()(const KeyedMover& k) { add(AssetKind::keys, "file", k.file); }
    void operator()(const auto&) {}
};

std::string cut_key(const Breakable& b);

} // namespace

std::string AssetNeed::key() const {
    std::string key = std::to_string(int(kind)) + " " + file;
    if (cells > 0) {
        key += " " + std::to_string(cells);
    }
    if (cell > 0) {
        key += " " + std::to_string(cell);
    }
    if (breakable != nullptr) {
        key += " " + cut_key(*breakable) + " " + std::to_string(seed);
    }
    return key;
}

std::vector<AssetNeed> needs_of(const Element& element, uint32_t effect_seed) {
    Needs needs{element.id, effect_seed, {}};
    std::visit(needs, element.body);
    return needs.list;
}

std::vector<AssetNeed> needs_of(const Look& look) {
    Needs needs{look.id, 0, {}};
    if (look.drawn_as == Drawing::meshes && look.mesh_set == MeshSet::files) {
        needs.add(AssetKind::body, "mesh_a", look.mesh_a);
        needs.add(AssetKind::body, "mesh_b", look.mesh_b);
        needs.add(AssetKind::body, "mesh_c", look.mesh_c);
    }
    return needs.list;
}

std::vector<AssetNeed> needs_of(const Texture& texture) {
    Needs needs{texture.id, 0, {}};
    if (texture.kind == TextureKind::image) {
        needs.add(AssetKind::image, "image", texture.image);
    }
    return needs.list;
}

std::vector<AssetNeed> needs_of(const Stage& stage) {
    static const std::string id(stage_id);
    Needs needs{id, 0, {}};
    if (stage.background == Background::image) {
        needs.add(AssetKind::image, "background_image", stage.background_image);
    }
    return needs.list;
}

std::vector<AssetNeed> needs_of(const Effect& effect) {
    std::vector<AssetNeed> all;
    const auto add = [&](const std::vector<AssetNeed>& needs) {
        all.insert(all.end(), needs.begin(), needs.end());
    };
    for (const Element& element : effect.elements) {
        add(needs_of(element, effect.seed));
    }
    for (const Look& look : effect.looks) {
        add(needs_of(look));
    }
    for (const Texture& texture : effect.textures) {
        add(needs_of(texture));
    }
    add(needs_of(effect.stage));
    return all;
}

namespace {

// Of what changes a cut.
std::string cut_key(const Breakable& b) {
    std::ostringstream text;
    text << std::hexfloat << int(b.shape) << ' ' << b.scale << ' ' << int(b.pattern) << ' ' << b.pieces << ' '
         << b.evenness << ' ' << b.grading << ' ' << b.again << ' ' << b.again_radius << ' ' << b.sliver;
    for (const Vec3& v : {b.size, b.cut_centre, b.cut_axis, b.block, b.again_centre}) {
        text << ' ' << v.x << ' ' << v.y << ' ' << v.z;
    }
    return text.str();
}

CutOrder order_of(const Breakable& b, uint32_t seed) {
    CutOrder order;
    order.pattern = b.pattern;
    order.pieces = b.pieces;
    order.evenness = b.evenness;
    order.grading = b.grading;
    order.centre = b.cut_centre;
    order.axis = b.cut_axis;
    order.block = b.block;
    order.again = b.again;
    order.again_centre = b.again_centre;
    order.again_radius = b.again_radius;
    order.sliver = b.sliver;
    order.seed = seed;
    return order;
}

std::optional<Cut> cut_of(const AssetNeed& need, const std::filesystem::path& path, Problems& problems,
                          const Progress& progress) {
    const Breakable& breakable = *need.breakable;
    std::optional<Mesh> mesh;
    if (breakable.shape == BreakShape::block) {
        mesh = block_mesh(breakable.size);
    } else if ((mesh = read_mesh(path, problems, progress))) {
        for (Vec3& corner : mesh->corners) {
            corner *= breakable.scale;
        }
    }
    const size_t before = problems.size();
    auto cut = mesh ? cut_apart(*mesh, order_of(breakable, need.seed), problems, progress) : std::nullopt;
    for (size_t i = before; i < problems.size(); ++i) {
        problems[i].file = breakable.mesh.empty() ? "" : path.string();
    }
    return cut;
}

} // namespace

AssetLibrary::Entry AssetLibrary::read(const AssetNeed& need, const std::filesystem::path& folder,
                                       const Progress& progress) {
    const std::filesystem::path path = folder / need.file;
    Entry entry;
    const auto keep = [&](auto read) {
        if (read) {
            entry.asset = std::make_shared<const Asset>(std::move(*read));
        }
    };
    switch (need.kind) {
    case AssetKind::mesh:
        keep(read_mesh(path, entry.problems, progress));
        break;
    case AssetKind::vectors:
        keep(read_vectors(path, need.cells, entry.problems));
        break;
    case AssetKind::heights:
        keep(read_heights(path, entry.problems));
        break;
    case AssetKind::body:
        if (auto mesh = read_mesh(path, entry.problems, progress)) {
            const size_t given = mesh->triangles.size();
            for (int cells = 160; mesh->triangles.size() > most_body_triangles; cells = cells * 2 / 3) {
                *mesh = coarsened(*mesh, cells);
            }
            if (mesh->triangles.size() < given) {
                entry.problems.push_back(
                    {path.string(), 0, "", std::to_string(given) + " triangles for one particle",
                     "at most " + std::to_string(most_body_triangles) + "; it is drawn with " +
                         std::to_string(mesh->triangles.size())});
            }
            keep(std::move(mesh));
        }
        break;
    case AssetKind::image:
        keep(read_image(path, entry.problems));
        break;
    case AssetKind::cut:
        keep(cut_of(need, path, entry.problems, progress));
        break;
    case AssetKind::clip:
        keep(read_clip(path, entry.problems, progress));
        break;
    case AssetKind::smoke_clip:
        keep(read_smoke_clip(path, need.cells, entry.problems, progress));
        break;
    case AssetKind::piece_clip:
        keep(read_piece_clip(path, entry.problems, progress));
        break;
    case AssetKind::keys:
        keep(read_keys(path, entry.problems));
        break;
    case AssetKind::distances: {
        const auto mesh = read_mesh(path, entry.problems, progress);
        if (!mesh) {
            break;
        }
        const Vec3 size = mesh->high() - mesh->low();
        const float longest = std::max({size.x, size.y, size.z, 1e-6f});
        const float cell = need.cell > 0 ? need.cell : longest / float(need.cells);
        const auto cells = [cell](float length) { return double(length / cell) + 8; };
        const double all = cells(size.x) * cells(size.y) * cells(size.z);
        if (all > most_distance_cells) {
            entry.problems.push_back({path.string(), 0, "",
                                      std::to_string(int64_t(all / 1e6)) + " million cells, up to " +
                                          std::to_string(int64_t(all * 4 / 1e9)) + " GB",
                                      "a larger area or a lower resolution"});
            break;
        }
        auto field = DistanceField::of(*mesh, cell, progress);
        if (field && field->is_shell()) {
            entry.problems.push_back(
                {path.string(), 0, "",
                 std::to_string(mesh->open_edges()) + " open edges: the mesh has no inside",
                 "a closed mesh; until then its surface acts as a thin shell"});
        }
        keep(std::move(field));
        break;
    }
    }
    return entry;
}

LoadResult AssetLibrary::load(const Effect& effect, const std::filesystem::path& folder,
                              const Progress& progress) {
    LoadResult result;
    std::set<std::string> cuts;
    for (const AssetNeed& need : needs_of(effect)) {
        const std::string key = folder.string() + "\n" + need.key();
        std::unique_lock lock(mutex_);
        auto found = entries_.find(key);
        if (found == entries_.end()) {
            lock.unlock();
            Entry entry = read(need, folder, progress);
            if (!entry.asset && !progress.goes_on("", 1)) {
                return result; // cancelled: not to be remembered as unreadable
            }
            lock.lock();
            found = entries_.emplace(key, std::move(entry)).first;
        }
        if (found->second.asset) {
            result.assets.by_key[need.key()] = found->second.asset;
        }
        if (need.kind == AssetKind::cut) {
            cuts.insert(key);
        }
        for (Problem problem : found->second.problems) {
            problem.place =
                need.holder + "." + need.parameter + (problem.place.empty() ? "" : ", " + problem.place);
            (found->second.asset ? result.notes : result.missing).push_back(std::move(problem));
        }
    }
    // Cuts are made as sliders are moved: only those in use are kept.
    const std::lock_guard lock(mutex_);
    std::erase_if(entries_, [&](const auto& entry) {
        return entry.second.asset && std::holds_alternative<Cut>(*entry.second.asset) &&
               !cuts.contains(entry.first);
    });
    return result;
}

Assets AssetLibrary::ready(const Effect& effect, const std::filesystem::path& folder, bool& complete) const {
    Assets assets;
    complete = true;
    const std::lock_guard lock(mutex_);
    for (const AssetNeed& need : needs_of(effect)) {
        const auto found = entries_.find(folder.string() + "\n" + need.key());
        complete = complete && found != entries_.end();
        if (found != entries_.end() && found->second.asset) {
            assets.by_key[need.key()] = found->second.asset;
        }
    }
    return assets;
}

void AssetLibrary::forget() {
    const std::lock_guard lock(mutex_);
    entries_.clear();
}

} // namespace ember
