#include "core/cutting/mended.h"

#include "core/cutting/cut.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>

namespace ember {

namespace {

// Rims of holes, walked so that a face inside of them closes the mesh. Nothing if rims meet in a point, or if
// faces turn different ways.
std::optional<std::vector<std::vector<uint32_t>>> rims_of(const ClosedMesh& mesh) {
    std::map<std::pair<uint32_t, uint32_t>, int> walked;
    for (const ClosedMesh::Face& face : mesh.faces) {
        for (size_t k = 0; k < 3; ++k) {
            if (++walked[{face.corners[k], face.corners[(k + 1) % 3]}] > 1) {
                return std::nullopt;
            }
        }
    }
    std::map<uint32_t, uint32_t> next;
    for (const auto& [edge, count] : walked) {
        if (!walked.contains({edge.second, edge.first}) &&
            !next.try_emplace(edge.second, edge.first).second) {
            return std::nullopt;
        }
    }
    std::vector<std::vector<uint32_t>> rims;
    while (!next.empty()) {
        std::vector<uint32_t> rim;
        for (auto at = next.begin(); at != next.end(); at = next.find(rim.back())) {
            rim.push_back(at->second);
            next.erase(at);
        }
        rims.push_back(std::move(rim));
    }
    return rims;
}

// Closes a rim from its middle, if it is about flat and turns the same way all round.
bool close_rim(ClosedMesh& mesh, const std::vector<uint32_t>& rim) {
    Point middle, normal;
    for (const uint32_t point : rim) {
        middle = middle + mesh.points[point] * (1 / double(rim.size()));
    }
    for (size_t i = 0; i < rim.size(); ++i) {
        normal =
            normal + cross(mesh.points[rim[i]] - middle, mesh.points[rim[(i + 1) % rim.size()]] - middle);
    }
    const double twice = std::sqrt(dot(normal, normal));
    if (rim.size() < 3 || twice <= 0) {
        return false;
    }
    normal = normal * (1 / twice);
    for (size_t i = 0; i < rim.size(); ++i) {
        const Point a = mesh.points[rim[i]] - middle, b = mesh.points[rim[(i + 1) % rim.size()]] - middle;
        const bool is_off = std::fabs(dot(a, normal)) > 0.1 * std::sqrt(twice);
        if (is_off || dot(cross(a, b), normal) <= 0) {
            return false;
        }
    }
    const auto centre = uint32_t(mesh.points.size());
    mesh.points.push_back(middle);
    for (size_t i = 0; i < rim.size(); ++i) {
        mesh.faces.push_back({{centre, rim[i], rim[(i + 1) % rim.size()]}, outside});
    }
    return true;
}

// Whether a line from a to b passes through a face (T. Moeller, B. Trumbore, 1997).
bool passes(const Point& a, const Point& b, const Point& p, const Point& q, const Point& r) {
    const Point way = b - a, u = q - p, v = r - p, across = cross(way, v);
    const double turn = dot(u, across);
    if (std::fabs(turn) < 1e-18) {
        return false;
    }
    const Point from = a - p, other = cross(from, u);
    const double s = dot(from, across) / turn, t = dot(way, other) / turn, at = dot(v, other) / turn;
    constexpr double rim = 1e-9;
    return s > rim && t > rim && s + t < 1 - rim && at > rim && at < 1 - rim;
}

// How many pairs of faces cross, in all up to `most`.
size_t crossings(const ClosedMesh& mesh, size_t most) {
    struct Box {
        double low[3], high[3];
        size_t face;
    };
    std::vector<Box> boxes;
    for (size_t f = 0; f < mesh.faces.size(); ++f) {
        Box box = {{HUGE_VAL, HUGE_VAL, HUGE_VAL}, {-HUGE_VAL, -HUGE_VAL, -HUGE_VAL}, f};
        for (const uint32_t corner : mesh.faces[f].corners) {
            const Point& p = mesh.points[corner];
            const double at[3] = {p.x, p.y, p.z};
            for (int k = 0; k < 3; ++k) {
                box.low[k] = std::min(box.low[k], at[k]);
                box.high[k] = std::max(box.high[k], at[k]);
            }
        }
        boxes.push_back(box);
    }
    // Sorted into cells of about the size of a face.
    const Point low = mesh.low(), size = mesh.high() - low;
    const double cell =
        std::max({size.x, size.y, size.z}) / std::clamp(std::sqrt(double(boxes.size())), 1.0, 400.0);
    std::unordered_map<uint64_t, std::vector<uint32_t>> cells;
    const auto each_cell = [&](const Box& box, auto visit) {
        const double start[3] = {low.x, low.y, low.z};
        int from[3], to[3];
        for (int k = 0; k < 3; ++k) {
            from[k] = int((box.low[k] - start[k]) / cell);
            to[k] = int((box.high[k] - start[k]) / cell);
        }
        for (int x = from[0]; x <= to[0]; ++x) {
            for (int y = from[1]; y <= to[1]; ++y) {
                for (int z = from[2]; z <= to[2]; ++z) {
                    visit(uint64_t(x) | uint64_t(y) << 20 | uint64_t(z) << 40);
                }
            }
        }
    };
    size_t found = 0;
    for (size_t i = 0; i < boxes.size() && found < most; ++i) {
        const Box& box = boxes[i];
        const auto& one = mesh.faces[box.face].corners;
        bool crosses = false;
        each_cell(box, [&](uint64_t key) {
            for (const uint32_t other : cells[key]) {
                const Box& with = boxes[other];
                bool apart = false;
                for (int k = 0; k < 3; ++k) {
                    apart = apart || box.low[k] > with.high[k] || with.low[k] > box.high[k];
                }
                const auto& two = mesh.faces[with.face].corners;
                for (const uint32_t corner : one) { // neighbours touch, which is no crossing
                    apart = apart || std::find(two.begin(), two.end(), corner) != two.end();
                }
                for (size_t k = 0; k < 3 && !apart && !crosses; ++k) {
                    const auto at = [&](uint32_t point) -> const Point& { return mesh.points[point]; };
                    crosses = passes(at(one[k]), at(one[(k + 1) % 3]), at(two[0]), at(two[1]), at(two[2])) ||
                              passes(at(two[k]), at(two[(k + 1) % 3]), at(one[0]), at(one[1]), at(one[2]));
                }
            }
            cells[key].push_back(uint32_t(i));
        });
        found += crosses ? 1 : 0;
    }
    return found;
}

} // namespace

std::optional<ClosedMesh> mended(const Mesh& mesh, Problems& problems) {
    const auto refuse = [&](std::string found, std::string expected) {
        problems.push_back({"", 0, "", std::move(found), std::move(expected)});
        return std::nullopt;
    };
    if (mesh.triangles.size() > most_cut_triangles) {
        return refuse(std::to_string(mesh.triangles.size()) + " triangles",
                      "at most " + std::to_string(most_cut_triangles) + " to be cut; a coarser mesh");
    }
    ClosedMesh closed = ClosedMesh::of(mesh);
    std::erase_if(closed.faces, [](const ClosedMesh::Face& face) {
        return face.corners[0] == face.corners[1] || face.corners[1] == face.corners[2] ||
               face.corners[2] == face.corners[0];
    });
    const auto rims = rims_of(closed);
    if (!rims) {
        return refuse("edges with more than two triangles, or triangles that turn different ways",
                      "a closed mesh in which each edge has one triangle on either side");
    }
    constexpr size_t most_holes = 16;
    size_t mended_holes = 0;
    for (const std::vector<uint32_t>& rim : *rims) {
        mended_holes += rims->size() <= most_holes && close_rim(closed, rim) ? 1 : 0;
    }
    if (mended_holes < rims->size()) {
        return refuse("an open mesh: " + std::to_string(rims->size()) + " holes, of which " +
                          std::to_string(rims->size() - mended_holes) + " cannot be closed safely",
                      "a closed mesh");
    }
    const double volume = closed.volume();
    const Point size = closed.high() - closed.low();
    const double longest = std::max({size.x, size.y, size.z});
    if (std::fabs(volume) < 1e-6 * longest * longest * longest) {
        return refuse("a flat mesh: hardly any volume", "a body with an inside");
    }
    if (const size_t crossed = crossings(closed, 100); crossed > 0) {
        return refuse("a mesh that crosses itself: " + std::to_string(crossed) +
                          (crossed == 100 ? " triangles or more" : " triangles"),
                      "a closed mesh whose surface does not pass through itself");
    }
    if (volume < 0) {
        for (ClosedMesh::Face& face : closed.faces) {
            std::swap(face.corners[1], face.corners[2]);
        }
    }
    if (mended_holes > 0) {
        problems.push_back({"", 0, "",
                            "an open mesh: " + std::to_string(mended_holes) +
                                (mended_holes == 1 ? " flat hole, now closed" : " flat holes, now closed"),
                            "a closed mesh"});
    }
    return closed;
}

} // namespace ember
