// Which bonds of a body break under a load.
//
// Bonds are springs whose stiffness is their area over their length, pieces are points: the forces in the
// bonds follow from the loads on the pieces (statics of a network of springs; only forces, no bending). A
// bond breaks where its force is more than it holds; what then hangs on the others is found anew, so cracks
// run from neighbour to neighbour, as far as there is energy to open them (A. Griffith, "The Phenomena of
// Rupture and Flow in Solids", 1921).
#pragma once

#include "kernels/vec3.h"

#include <cstdint>
#include <span>
#include <vector>

namespace ember {

struct LoadedPiece {
    float mass = 1; // kg
    Vec3 place;     // m
    Vec3 force;     // N, from outside
    bool is_fixed = false;
};

struct LoadedBond {
    uint32_t a = 0, b = 0; // pieces
    float stiffness = 1;   // area / length
    float holds = 1;       // N
    float takes = 0;       // J, to be opened
};

/// The forces in bonds (N), for pieces that hang together or not. A group without a fixed piece takes the
/// load as its acceleration; only what differs from that strains it.
std::vector<float> bond_forces(std::span<const LoadedPiece> pieces, std::span<const LoadedBond> bonds,
                               std::span<const char> is_broken);

struct Rupture {
    size_t bonds = 0;
    float load = 0; // the most that one of them carried, as a share of what it held
};

/// Adds to `is_broken` (of each bond) what breaks: in each round the most overloaded first, while `energy_j`
/// is left.
Rupture break_bonds(std::span<const LoadedPiece> pieces, std::span<const LoadedBond> bonds,
                    std::vector<char>& is_broken, float energy_j = 1e30f);

/// The group of each piece, numbered in order of their first pieces.
std::vector<uint32_t> groups_of(size_t pieces, std::span<const LoadedBond> bonds,
                                std::span<const char> is_broken);

/// The things of each group, in the groups' order; `groups`: of each thing.
std::vector<std::vector<uint32_t>> parts_of(std::span<const uint32_t> things,
                                            std::span<const uint32_t> groups);

} // namespace ember
