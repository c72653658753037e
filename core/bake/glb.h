// glTF 2.0 in one binary file, put together bit by bit.
#pragma once

#include "core/bake/motion_keys.h"
#include "core/base/curve.h"
#include "core/base/problem.h"
#include "core/geometry/mesh.h"

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace ember {

struct GlbMaterial {
    std::string name;
    Colour colour;       // linear
    float roughness = 1; // 0..1
    Colour glow = {0, 0, 0, 1};
};

struct GlbPart {
    std::vector<std::array<uint32_t, 3>> triangles;
    int material = -1;
};

struct GlbNode {
    std::string name;
    int parent = -1; // -1: of the scene
    int mesh = -1;   // -1: none
    Vec3 place;
    Quaternion turn;
    float scale = 1;
};

class GlbFile {
  public:
    /// `animation`: the name of the one that all motions belong to.
    explicit GlbFile(const std::string& animation);
    ~GlbFile();

    int add_material(const GlbMaterial& material);
    /// `columns`: of each corner, the first number of a second set of texture coordinates; may be empty.
    /// Parts without triangles are left out.
    int add_mesh(const std::string& name, const Mesh& mesh, std::span<const float> columns,
                 const std::vector<GlbPart>& parts);
    int add_node(const GlbNode& node);
    /// A node that is there from the first key's frame to the last one's, of `frames`; `keys` are of frames
    /// that follow one another, and are thinned. While it is not there its scale is 0. `turns`: whether turns
    /// are written.
    int add_moving(GlbNode node, const std::vector<MotionKey>& keys, int frames, double frames_per_s,
                   bool turns);
    std::optional<Problem> write(const std::filesystem::path& path);

  private:
    struct Inside;
    std::unique_ptr<Inside> in_;
};

} // namespace ember
