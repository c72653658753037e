#include "core/cutting/cut.h"

#include "core/base/hash.h"
#include "core/cutting/cells.h"
#include "core/cutting/closed_mesh.h"
#include "core/cutting/mended.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <numeric>

namespace ember {

namespace {

// The pieces that cells leave of a mesh, cell after cell. Nothing if cancelled.
std::optional<std::vector<ClosedMesh>> pieces_in(const ClosedMesh& mesh, const std::vector<Cell>& cells,
                                                 const std::function<bool(float)>& goes_on) {
    std::vector<std::vector<ClosedMesh>> found(cells.size());
    std::atomic<size_t> done = 0;
    std::atomic<bool> is_cancelled = false;
    tbb::parallel_for(size_t(0), cells.size(), [&](size_t i) {
        if (!is_cancelled) {
            found[i] = mesh.within(cells[i]).parts();
            is_cancelled = is_cancelled || !goes_on(float(++done) / float(cells.size()));
        }
    });
    if (is_cancelled) {
        return std::nullopt;
    }
    std::vector<ClosedMesh> pieces;
    for (std::vector<ClosedMesh>& of_cell : found) {
        std::move(of_cell.begin(), of_cell.end(), std::back_inserter(pieces));
    }
    return pieces;
}

// --- which pieces touch

// A face on a cut, laid flat.
struct FlatFace {
    double x[3], y[3];
};

// The faces of one piece on one side of a cut.
struct Contact {
    size_t piece;
    double area = 0;
    double low_x = HUGE_VAL, low_y = HUGE_VAL, high_x = -HUGE_VAL, high_y = -HUGE_VAL;
    std::vector<FlatFace> faces;
    std::vector<size_t> numbers; // of the faces in the piece
};

double shared_area(const FlatFace& a, const FlatFace& b) {
    // What is left of `a` behind each side of `b` (I. Sutherland, G. Hodgman, 1974).
    std::vector<std::array<double, 2>> left, next;
    for (int k = 0; k < 3; ++k) {
        left.push_back({a.x[k], a.y[k]});
    }
    const double turns = (b.x[1] - b.x[0]) * (b.y[2] - b.y[0]) - (b.y[1] - b.y[0]) * (b.x[2] - b.x[0]);
    for (int k = 0; k < 3 && !left.empty(); ++k) {
        const int l = (k + 1) % 3;
        const auto height = [&](const std::array<double, 2>& p) {
            const double h = (b.x[l] - b.x[k]) * (p[1] - b.y[k]) - (b.y[l] - b.y[k]) * (p[0] - b.x[k]);
            return turns > 0 ? h : -h;
        };
        next.clear();
        for (size_t i = 0; i < left.size(); ++i) {
            const auto &p = left[i], &q = left[(i + 1) % left.size()];
            const double hp = height(p), hq = height(q);
            if (hp >= 0) {
                next.push_back(p);
            }
            if ((hp >= 0) != (hq >= 0)) {
                const double share = hp / (hp - hq);
                next.push_back({p[0] + (q[0] - p[0]) * share, p[1] + (q[1] - p[1]) * share});
            }
        }
        left.swap(next);
    }
    double twice = 0;
    for (size_t i = 0; i < left.size(); ++i) {
        const auto &p = left[i], &q = left[(i + 1) % left.size()];
        twice += p[0] * q[1] - q[0] * p[1];
    }
    return std::fabs(twice) / 2;
}

double shared_area(const Contact& a, const Contact& b) {
    if (a.low_x >= b.high_x || b.low_x >= a.high_x || a.low_y >= b.high_y || b.low_y >= a.high_y) {
        return 0;
    }
    double area = 0;
    for (const FlatFace& one : a.faces) {
        for (const FlatFace& other : b.faces) {
            area += shared_area(one, other);
        }
    }
    return area;
}

Point normal_of(const ClosedMesh& mesh, const ClosedMesh::Face& face) {
    const Point& a = mesh.points[face.corners[0]];
    return cross(mesh.points[face.corners[1]] - a, mesh.points[face.corners[2]] - a);
}

// Of one cut: who lies on either side of it.
struct Sides {
    Point normal; // out of those on the first side
    std::vector<Contact> of[2];
};

std::vector<Bond> bonds_of(const std::vector<ClosedMesh>& pieces) {
    std::map<int32_t, Sides> cuts;
    const auto each_face = [&](auto visit) {
        for (size_t piece = 0; piece < pieces.size(); ++piece) {
            for (size_t f = 0; f < pieces[piece].faces.size(); ++f) {
                const int32_t side = pieces[piece].faces[f].side;
                if (side != outside) {
                    visit(piece, f, cuts[side / 2], size_t(side % 2));
                }
            }
        }
    };
    // Thin faces have hardly a direction of their own.
    each_face([&](size_t piece, size_t f, Sides& sides, size_t side) {
        const Point normal = normal_of(pieces[piece], pieces[piece].faces[f]);
        sides.normal = sides.normal + normal * (side == 0 ? 1 : -1);
    });
    for (auto& [cut, sides] : cuts) {
        sides.normal = sides.normal * (1 / std::max(std::sqrt(dot(sides.normal, sides.normal)), 1e-300));
    }
    each_face([&](size_t piece, size_t f, Sides& sides, size_t side) {
        const ClosedMesh& mesh = pieces[piece];
        std::vector<Contact>& contacts = sides.of[side];
        if (contacts.empty() || contacts.back().piece != piece) {
            contacts.push_back({piece, 0, HUGE_VAL, HUGE_VAL, -HUGE_VAL, -HUGE_VAL, {}, {}});
        }
        Contact& contact = contacts.back();
        const Point other = std::fabs(sides.normal.y) < 0.9 ? Point{0, 1, 0} : Point{1, 0, 0};
        const Point across = cross(other, sides.normal);
        const Point u = across * (1 / std::sqrt(dot(across, across))), v = cross(sides.normal, u);
        FlatFace flat{};
        for (size_t k = 0; k < 3; ++k) {
            const Point& corner = mesh.points[mesh.faces[f].corners[k]];
            flat.x[k] = dot(corner, u);
            flat.y[k] = dot(corner, v);
            contact.low_x = std::min(contact.low_x, flat.x[k]);
            contact.high_x = std::max(contact.high_x, flat.x[k]);
            contact.low_y = std::min(contact.low_y, flat.y[k]);
            contact.high_y = std::max(contact.high_y, flat.y[k]);
        }
        const Point normal = normal_of(mesh, mesh.faces[f]);
        contact.area += std::sqrt(dot(normal, normal)) / 2;
        contact.faces.push_back(flat);
        contact.numbers.push_back(f);
    });
    std::map<std::pair<size_t, size_t>, Bond> bonds; // two pieces may touch along several cuts
    for (const auto& [cut, sides] : cuts) {
        for (const Contact& one : sides.of[0]) {
            for (const Contact& other : sides.of[1]) {
                const bool are_alone = sides.of[0].size() == 1 && sides.of[1].size() == 1;
                const double area = are_alone ? std::min(one.area, other.area) : shared_area(one, other);
                if (area <= 1e-9 * std::min(one.area, other.area) || one.piece == other.piece) {
                    continue;
                }
                // The smaller face is where they touch.
                const Contact& face = one.area <= other.area ? one : other;
                const bool turned = one.piece > other.piece;
                Bond& bond = bonds[std::minmax(one.piece, other.piece)];
                bond.a = uint32_t(std::min(one.piece, other.piece));
                bond.b = uint32_t(std::max(one.piece, other.piece));
                Point middle;
                double twice_area = 0;
                for (const size_t f : face.numbers) {
                    const ClosedMesh& mesh = pieces[face.piece];
                    const auto& corners = mesh.faces[f].corners;
                    const Point &p = mesh.points[corners[0]], &q = mesh.points[corners[1]],
                                &r = mesh.points[corners[2]];
                    const Point across = cross(q - p, r - p);
                    const double twice = std::sqrt(dot(across, across));
                    middle = middle + (p + q + r) * (twice / 3);
                    twice_area += twice;
                    bond.face.push_back({vec_of(p), vec_of(q), vec_of(r)});
                }
                const double whole = double(bond.area) + area;
                bond.middle = vec_of(point_of(bond.middle) * (double(bond.area) / whole) +
                                     middle * (area / (whole * std::max(twice_area, 1e-300))));
                bond.normal = vec_of(sides.normal * (turned ? -1 : 1));
                bond.area = float(whole);
            }
        }
    }
    std::vector<Bond> list;
    for (auto& [pair, bond] : bonds) {
        list.push_back(std::move(bond));
    }
    return list;
}

// Joins pieces that are smaller than `least` with the neighbour that they touch most; returns how many.
size_t merge_slivers(std::vector<ClosedMesh>& pieces, double least) {
    std::vector<double> volumes;
    for (const ClosedMesh& piece : pieces) {
        volumes.push_back(piece.volume());
    }
    if (std::none_of(volumes.begin(), volumes.end(), [&](double volume) { return volume < least; })) {
        return 0;
    }
    const std::vector<Bond> bonds = bonds_of(pieces);
    std::vector<size_t> joined(pieces.size());
    std::iota(joined.begin(), joined.end(), size_t(0));
    const auto root_of = [&](size_t i) {
        while (joined[i] != i) {
            i = joined[i];
        }
        return i;
    };
    std::vector<size_t> order(pieces.size());
    std::iota(order.begin(), order.end(), size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) { return volumes[a] < volumes[b]; });
    size_t merged = 0;
    for (const size_t small : order) {
        const size_t root = root_of(small);
        if (volumes[root] >= least) {
            continue;
        }
        std::map<size_t, float> areas;
        for (const Bond& bond : bonds) {
            const size_t a = root_of(bond.a), b = root_of(bond.b);
            if (a != b && (a == root || b == root)) {
                areas[a == root ? b : a] += bond.area;
            }
        }
        const auto best = std::max_element(areas.begin(), areas.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (best != areas.end()) {
            joined[root] = best->first;
            volumes[best->first] += volumes[root];
            ++merged;
        }
    }
    std::vector<ClosedMesh> kept;
    std::map<size_t, size_t> places;
    for (size_t i = 0; i < pieces.size(); ++i) {
        if (joined[i] == i) {
            places[i] = kept.size();
            kept.push_back(std::move(pieces[i]));
        }
    }
    for (size_t i = 0; i < pieces.size(); ++i) {
        if (joined[i] != i) {
            kept[places.at(root_of(i))].join(pieces[i]);
        }
    }
    pieces = std::move(kept);
    return merged;
}

Piece finished(const ClosedMesh& mesh) {
    Piece piece;
    const Point centre = mesh.centre();
    piece.centre = vec_of(centre);
    piece.volume = float(mesh.volume());
    for (const Point& p : mesh.points) {
        piece.mesh.corners.push_back(vec_of(p - centre));
        piece.radius = std::max(piece.radius, length(piece.mesh.corners.back()));
    }
    for (const bool is_outer : {true, false}) {
        for (const ClosedMesh::Face& face : mesh.faces) {
            if ((face.side == outside) == is_outer) {
                piece.mesh.triangles.push_back(face.corners);
            }
        }
        piece.outer = is_outer ? uint32_t(piece.mesh.triangles.size()) : piece.outer;
    }
    return piece;
}

} // namespace

BondFace::BondFace(const Bond& bond) : bond_(&bond) {
    float twice = 0;
    for (const auto& t : bond.face) {
        up_to_.push_back(twice += length(cross(t[1] - t[0], t[2] - t[0])));
    }
}

Vec3 BondFace::place(uint32_t seed) const {
    const auto random = [&](uint32_t what) { return float(mixed_seed(seed, what) >> 8) / 16777216.0f; };
    const auto found = std::upper_bound(up_to_.begin(), up_to_.end() - 1, random(1) * up_to_.back());
    const auto& t = bond_->face[size_t(found - up_to_.begin())];
    // Even over a triangle (R. Osada et al., "Shape Distributions", 2002, eq. 1).
    const float across = std::sqrt(random(2)), along = random(3);
    return t[0] * (1 - across) + t[1] * (across * (1 - along)) + t[2] * (across * along);
}

std::optional<Cut> cut_apart(const Mesh& mesh, const CutOrder& order, Problems& problems,
                             const Progress& progress) {
    const auto whole = mended(mesh, problems);
    if (!whole) {
        return std::nullopt;
    }
    const auto share_of = [&](float from, float to) {
        return [&progress, from, to](float share) {
            return progress.goes_on("Cutting", from + (to - from) * share);
        };
    };
    if (order.pattern == CutPattern::courses) {
        const Point size = whole->high() - whole->low();
        const auto along = [](double length, float block) {
            return std::max(std::round(length / std::max(double(block), 1e-6)), 1.0);
        };
        const double blocks =
            along(size.x, order.block.x) * along(size.y, order.block.y) * along(size.z, order.block.z);
        if (blocks > most_pieces) {
            problems.push_back(
                {"", 0, "", "about " + std::to_string(int64_t(std::min(blocks, 1e15))) + " blocks",
                 "at most " + std::to_string(most_pieces) + ": larger blocks, or a smaller body"});
            return std::nullopt;
        }
    }
    int32_t next_cut = 0;
    const auto cells = cells_of(*whole, order, next_cut, share_of(0, 0.2f));
    auto pieces = cells ? pieces_in(*whole, *cells, share_of(0.2f, 0.7f)) : std::nullopt;
    if (!pieces) {
        return std::nullopt;
    }
    if (order.again > 1) {
        CutOrder finer;
        finer.pieces = order.again;
        finer.evenness = order.evenness;
        std::vector<ClosedMesh> all;
        for (size_t i = 0; i < pieces->size(); ++i) {
            const Point away = (*pieces)[i].centre() - point_of(order.again_centre);
            if (std::sqrt(dot(away, away)) > double(order.again_radius)) {
                all.push_back(std::move((*pieces)[i]));
                continue;
            }
            const float done = 0.7f + 0.2f * float(i) / float(pieces->size());
            finer.seed = mixed_seed(order.seed, uint32_t(i) + 1);
            const auto goes_on = share_of(done, done);
            const auto again = cells_of((*pieces)[i], finer, next_cut, goes_on);
            auto parts = again ? pieces_in((*pieces)[i], *again, goes_on) : std::nullopt;
            if (!parts) {
                return std::nullopt;
            }
            std::move(parts->begin(), parts->end(), std::back_inserter(all));
        }
        *pieces = std::move(all);
    }
    if (pieces->size() > most_pieces_of_a_cut) {
        problems.push_back({"", 0, "", std::to_string(pieces->size()) + " pieces",
                            "at most " + std::to_string(most_pieces_of_a_cut)});
        return std::nullopt;
    }
    Cut cut;
    cut.volume = whole->volume();
    cut.slivers =
        merge_slivers(*pieces, double(order.sliver) * cut.volume / std::max(double(pieces->size()), 1.0));
    if (!progress.goes_on("Cutting", 0.95f)) {
        return std::nullopt;
    }
    cut.bonds = bonds_of(*pieces);
    for (const ClosedMesh& piece : *pieces) {
        cut.pieces.push_back(finished(piece));
        cut.triangles += cut.pieces.back().mesh.triangles.size();
    }
    return cut;
}

} // namespace ember
