#include "core/debris/fracture.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

struct Group {
    float mass = 0;
    Vec3 middle, force, torque;
    Vec3 acceleration, turning; // m/s^2, rad/s^2
    bool is_fixed = false;
    float inertia[3][3] = {};
};

// The turning that a torque causes; none for a thin rod about its own line.
Vec3 solved(const float (&m)[3][3], const Vec3& t) {
    const auto minor = [&](int i, int j) {
        const int a = (i + 1) % 3, b = (i + 2) % 3, c = (j + 1) % 3, d = (j + 2) % 3;
        return m[a][c] * m[b][d] - m[a][d] * m[b][c];
    };
    const float whole = m[0][0] * minor(0, 0) + m[0][1] * minor(0, 1) + m[0][2] * minor(0, 2);
    const float size = m[0][0] + m[1][1] + m[2][2];
    if (!(std::fabs(whole) > 1e-6f * size * size * size)) {
        return {};
    }
    const float by = 1 / whole;
    return {(minor(0, 0) * t.x + minor(1, 0) * t.y + minor(2, 0) * t.z) * by,
            (minor(0, 1) * t.x + minor(1, 1) * t.y + minor(2, 1) * t.z) * by,
            (minor(0, 2) * t.x + minor(1, 2) * t.y + minor(2, 2) * t.z) * by};
}

// Loads less what goes into the motion of each group as a whole.
std::vector<Vec3> strains(std::span<const LoadedPiece> pieces, const std::vector<uint32_t>& groups) {
    std::vector<Group> all(pieces.empty() ? 0 : *std::max_element(groups.begin(), groups.end()) + 1);
    for (size_t i = 0; i < pieces.size(); ++i) {
        Group& group = all[groups[i]];
        group.mass += pieces[i].mass;
        group.middle += pieces[i].place * pieces[i].mass;
        group.force += pieces[i].force;
        group.is_fixed = group.is_fixed || pieces[i].is_fixed;
    }
    for (Group& group : all) {
        group.middle = group.middle / std::max(group.mass, 1e-9f);
        group.acceleration = group.force / std::max(group.mass, 1e-9f);
    }
    for (size_t i = 0; i < pieces.size(); ++i) {
        Group& group = all[groups[i]];
        const Vec3 arm = pieces[i].place - group.middle;
        group.torque += cross(arm, pieces[i].force);
        const float r[3] = {arm.x, arm.y, arm.z}, square = dot(arm, arm);
        for (int a = 0; a < 3; ++a) {
            for (int b = 0; b < 3; ++b) {
                group.inertia[a][b] += pieces[i].mass * ((a == b ? square : 0.0f) - r[a] * r[b]);
            }
        }
    }
    for (Group& group : all) {
        group.turning = solved(group.inertia, group.torque);
    }
    std::vector<Vec3> left(pieces.size());
    for (size_t i = 0; i < pieces.size(); ++i) {
        const Group& group = all[groups[i]];
        left[i] = pieces[i].force;
        if (!group.is_fixed) {
            const Vec3 arm = pieces[i].place - group.middle;
            left[i] -= (group.acceleration + cross(group.turning, arm)) * pieces[i].mass;
        }
    }
    return left;
}

} // namespace

std::vector<uint32_t> groups_of(size_t pieces, std::span<const LoadedBond> bonds,
                                std::span<const char> is_broken) {
    std::vector<uint32_t> roots(pieces);
    std::iota(roots.begin(), roots.end(), 0u);
    const auto root_of = [&](uint32_t i) {
        while (roots[i] != i) {
            i = roots[i] = roots[roots[i]];
        }
        return i;
    };
    for (size_t k = 0; k < bonds.size(); ++k) {
        if (is_broken[k] == 0) {
            const uint32_t a = root_of(bonds[k].a), b = root_of(bonds[k].b);
            roots[std::max(a, b)] = std::min(a, b);
        }
    }
    std::vector<uint32_t> groups(pieces);
    uint32_t next = 0;
    for (uint32_t i = 0; i < pieces; ++i) {
        const uint32_t root = root_of(i);
        groups[i] = root == i ? next++ : groups[root];
    }
    return groups;
}

std::vector<std::vector<uint32_t>> parts_of(std::span<const uint32_t> things,
                                            std::span<const uint32_t> groups) {
    std::vector<std::vector<uint32_t>> parts;
    for (size_t i = 0; i < things.size(); ++i) {
        parts.resize(std::max(parts.size(), size_t(groups[i]) + 1));
        parts[groups[i]].push_back(things[i]);
    }
    return parts;
}

std::vector<float> bond_forces(std::span<const LoadedPiece> pieces, std::span<const LoadedBond> bonds,
                               std::span<const char> is_broken) {
    const std::vector<Vec3> loads = strains(pieces, groups_of(pieces.size(), bonds, is_broken));
    // Conjugate gradients on the three axes at once (M. Hestenes, E. Stiefel, 1952), scaled by the diagonal.
    const size_t count = pieces.size();
    std::vector<float> diagonal(count, 0);
    for (size_t k = 0; k < bonds.size(); ++k) {
        if (is_broken[k] == 0) {
            diagonal[bonds[k].a] += bonds[k].stiffness;
            diagonal[bonds[k].b] += bonds[k].stiffness;
        }
    }
    std::vector<Vec3> moved(count), residual(count), way(count), applied(count);
    const auto scaled = [&](size_t i) {
        return pieces[i].is_fixed || diagonal[i] <= 0 ? Vec3() : residual[i] / diagonal[i];
    };
    double size = 0;
    for (size_t i = 0; i < count; ++i) {
        residual[i] = pieces[i].is_fixed ? Vec3() : loads[i];
        way[i] = scaled(i);
        size += double(dot(residual[i], way[i]));
    }
    const double enough = 1e-6 * size;
    const int rounds = int(std::min<size_t>(4 * count + 10, 400));
    for (int round = 0; round < rounds && size > enough && size > 0; ++round) {
        std::fill(applied.begin(), applied.end(), Vec3());
        for (size_t k = 0; k < bonds.size(); ++k) {
            if (is_broken[k] == 0) {
                const Vec3 pull = (way[bonds[k].a] - way[bonds[k].b]) * bonds[k].stiffness;
                applied[bonds[k].a] += pull;
                applied[bonds[k].b] -= pull;
            }
        }
        double along = 0;
        for (size_t i = 0; i < count; ++i) {
            along += double(dot(way[i], applied[i]));
        }
        if (!(along > 0)) {
            break;
        }
        const auto step = float(size / along);
        double next = 0;
        for (size_t i = 0; i < count; ++i) {
            moved[i] += way[i] * step;
            residual[i] = pieces[i].is_fixed ? Vec3() : residual[i] - applied[i] * step;
            next += double(dot(residual[i], scaled(i)));
        }
        const auto keep = float(next / size);
        size = next;
        for (size_t i = 0; i < count; ++i) {
            way[i] = scaled(i) + way[i] * keep;
        }
    }
    std::vector<float> forces(bonds.size(), 0);
    for (size_t k = 0; k < bonds.size(); ++k) {
        if (is_broken[k] == 0) {
            forces[k] = length(moved[bonds[k].a] - moved[bonds[k].b]) * bonds[k].stiffness;
        }
    }
    return forces;
}

Rupture break_bonds(std::span<const LoadedPiece> pieces, std::span<const LoadedBond> bonds,
                    std::vector<char>& is_broken, float energy_j) {
    // No bond carries more than all loads together.
    float loads = 0, weakest = HUGE_VALF;
    for (const LoadedPiece& piece : pieces) {
        loads += piece.is_fixed ? 0 : length(piece.force);
    }
    for (size_t k = 0; k < bonds.size(); ++k) {
        weakest = is_broken[k] == 0 ? std::min(weakest, bonds[k].holds) : weakest;
    }
    Rupture rupture;
    constexpr int most_rounds = 12; // within a step; a crack goes on in the next one
    for (int round = 0; round < most_rounds && loads > weakest; ++round) {
        const std::vector<float> forces = bond_forces(pieces, bonds, is_broken);
        struct Overloaded {
            size_t bond;
            float load;
        };
        std::vector<Overloaded> overloaded;
        for (size_t k = 0; k < bonds.size(); ++k) {
            if (is_broken[k] == 0 && forces[k] > bonds[k].holds) {
                overloaded.push_back({k, forces[k] / std::max(bonds[k].holds, 1e-9f)});
            }
        }
        std::stable_sort(overloaded.begin(), overloaded.end(),
                         [](const Overloaded& a, const Overloaded& b) { return a.load > b.load; });
        size_t now = 0;
        for (const auto& [bond, load] : overloaded) {
            if (bonds[bond].takes > energy_j) {
                return rupture;
            }
            energy_j -= bonds[bond].takes;
            is_broken[bond] = 1;
            rupture.load = std::max(rupture.load, load);
            ++rupture.bonds;
            ++now;
        }
        if (now == 0) {
            break;
        }
    }
    return rupture;
}

} // namespace ember
