// Smoke, and what forces do, as OpenVDB grids.
#pragma once

#include "core/bake/bake.h"
#include "core/smoke/volume.h"

#include <string>
#include <vector>

namespace ember {

struct BakedSmoke {
    std::string id;
    const SmokeVolume* volume;
    const Smoke* look; // as it is now
};

/// The bytes of an OpenVDB file with half floats, the same for the same smoke. Of the first volume the grids
/// are "density", "heat" (K) and "velocity" (m/s, in the middles of cells), of others "ID density" and so on;
/// a voxel is a cell, in metres, where it is in the world. Only cells with gas or heat are there. A grid
/// tells the colour that the gas has as "colour", the middle of the volume's bound as "bound_middle" (m) and
/// its time as "time_s".
std::string smoke_bytes(const std::vector<BakedSmoke>& volumes, double time_s);

struct BakedField {
    std::string name;
    std::vector<Vec3> vectors; // m/s^2, of the places of a box: see FieldBox::places()
};

/// The same for vectors: a voxel is a place, in the world.
std::string field_bytes(const FieldBox& box, const std::vector<BakedField>& fields, double time_s);

} // namespace ember
