// What others' libraries read of the files we write.
#pragma once

#include "core/base/axes.h"

#include <cstddef>
#include <map>
#include <string>
#include <vector>

namespace ember::sample {

/// Of an OpenVDB file, by the grids' names.
struct ReadGrid {
    size_t active = 0;
    double sum = 0;    // of numbers, or of the lengths of vectors
    Vec3 voxel, first; // m: its size, and where the cell 0, 0, 0 is in the world
    bool is_half = false;
};
std::map<std::string, ReadGrid> read_grids(const std::string& path);
/// The number of a grid at a place in the world, of its nearest voxel.
float value_at(const std::string& path, const std::string& grid, const Vec3& place);

/// Of an animated GLB: where a node's middle is at a time, how it is turned, and its scale.
struct ReadNode {
    std::string name;
    size_t corners = 0;
    std::vector<double> place_times, turn_times, scale_times; // s
    std::vector<Vec3> places;
    std::vector<Quaternion> turns;
    std::vector<float> scales;
    Vec3 place;
    Quaternion turn;
    float scale = 1;

    Vec3 place_at(double time_s) const;
};
std::vector<ReadNode> read_glb(const std::string& path);

/// The numbers of an OpenEXR file's channel, row by row.
std::vector<float> read_channel(const std::string& path, const std::string& channel);

} // namespace ember::sample
