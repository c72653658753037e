// Pieces as vertex animation textures: docs/bakes.md says how they are read.
#include "core/bake/channel_files.h"
#include "core/bake/glb.h"
#include "core/bake/piece_tracks.h"
#include "core/base/file.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int most_wide = 16384;

// Puts a corner where it is at a time. Kept in step with docs/bakes.md; the numbers stand in decode.json.
const char* const decode_shader = R"(#version 330 core
// Rigid pieces from two textures: a column for each piece, a row for each frame, the first on top.
layout(location = 0) in vec3 corner;     // about its piece's own middle, m
layout(location = 1) in vec3 normal;
layout(location = 2) in vec2 column;     // TEXCOORD_1: x is the piece's column, 0..1

uniform sampler2D place_texture;         // xyz and size
uniform sampler2D turn_texture;          // quaternion, xyzw
uniform bool is_coded;                   // true for PNG of 16 bits, false for EXR
uniform vec3 box_low, box_high;          // of decode.json
uniform float frame;                     // from 0, may lie between two
uniform mat4 view_projection;

out vec3 world_normal;
out vec3 world_place;

vec4 read(sampler2D textured, int row) {
    ivec2 size = textureSize(textured, 0);
    return texelFetch(textured, ivec2(int(column.x * float(size.x)), clamp(row, 0, size.y - 1)), 0);
}

vec3 turned(vec4 q, vec3 v) {
    return v + 2.0 * cross(q.xyz, cross(q.xyz, v) + q.w * v);
}

void main() {
    int row = int(floor(frame));
    float share = frame - float(row);
    vec4 place_a = read(place_texture, row), place_b = read(place_texture, row + 1);
    vec4 turn_a = read(turn_texture, row), turn_b = read(turn_texture, row + 1);
    if (is_coded) {
        place_a.xyz = mix(box_low, box_high, place_a.xyz);
        place_b.xyz = mix(box_low, box_high, place_b.xyz);
        turn_a = turn_a * 2.0 - 1.0;
        turn_b = turn_b * 2.0 - 1.0;
    }
    if (dot(turn_a, turn_b) < 0.0) {
        turn_b = -turn_b;
    }
    // A piece that comes or goes does so at once, one that shrinks evenly.
    float size = place_a.w == 0.0 || place_b.w == 0.0 ? place_a.w : mix(place_a.w, place_b.w, share);
    vec3 middle = place_a.w == 0.0 || place_b.w == 0.0 ? place_a.xyz : mix(place_a.xyz, place_b.xyz, share);
    vec4 turn = place_a.w == 0.0 || place_b.w == 0.0 ? normalize(turn_a) : normalize(mix(turn_a, turn_b, share));
    world_place = middle + turned(turn, corner * size);
    world_normal = turned(turn, normal);
    gl_Position = view_projection * vec4(world_place, 1.0);
}
)";

uint16_t code_of(float share) {
    return uint16_t(std::lround(std::clamp(share, 0.0f, 1.0f) * 65535.0f));
}

} // namespace

std::optional<Problem> PieceTracks::write_textures(const std::filesystem::path& folder, int frames) const {
    const int wide = int(tracks_.size());
    if (wide == 0 || wide > most_wide || frames > most_wide) {
        return Problem{folder.string(), 0, "",
                       std::to_string(wide) + " pieces, " + std::to_string(frames) + " frames",
                       "1 to " + std::to_string(most_wide) + " of each: textures are no larger"};
    }
    const size_t pixels = size_t(wide) * size_t(frames);
    NamedChannel place[4] = {{"R", std::vector<float>(pixels)},
                             {"G", std::vector<float>(pixels)},
                             {"B", std::vector<float>(pixels)},
                             {"A", std::vector<float>(pixels)}};
    NamedChannel turn[4] = {{"R", std::vector<float>(pixels)},
                            {"G", std::vector<float>(pixels)},
                            {"B", std::vector<float>(pixels)},
                            {"A", std::vector<float>(pixels, 1.0f)}};
    Mesh merged;
    std::vector<float> columns;
    std::map<std::string, std::pair<int, int>> materials;
    GlbFile glb("pieces");
    std::vector<GlbPart> parts;
    Vec3 low{1e30f, 1e30f, 1e30f}, high = low * -1.0f;
    int column = 0;
    for (const auto& [id, track] : tracks_) {
        for (const MotionKey& key : track.keys) {
            low = {std::min(low.x, key.place.x), std::min(low.y, key.place.y), std::min(low.z, key.place.z)};
            high = {std::max(high.x, key.place.x), std::max(high.y, key.place.y),
                    std::max(high.z, key.place.z)};
        }
        // Before it comes and after it went a piece lies where it came and went, without size.
        for (int frame = 0; frame < frames; ++frame) {
            const int since = frame - track.keys.front().frame;
            const MotionKey& key = track.keys[size_t(std::clamp(since, 0, int(track.keys.size()) - 1))];
            const size_t at = size_t(frame) * size_t(wide) + size_t(column);
            const float values[] = {key.place.x, key.place.y, key.place.z, key.frame == frame ? key.size : 0};
            const float turns[] = {key.turn.v.x, key.turn.v.y, key.turn.v.z, key.turn.w};
            for (int part = 0; part < 4; ++part) {
                place[part].values[at] = values[part];
                turn[part].values[at] = turns[part];
            }
        }
        const std::string& breakable = id.first;
        if (!materials.contains(breakable)) {
            const auto add = [&, rough = 1 - track.look.shine](const char* what, const Colour& colour) {
                parts.push_back({{}, glb.add_material({breakable + what, colour, rough})});
                return int(parts.size()) - 1;
            };
            const int outside = add(" outside", track.look.colour);
            materials[breakable] = {outside, add(" inside", track.look.inner_colour)};
        }
        const Piece& piece = track.cut->pieces[track.piece];
        const auto first = uint32_t(merged.corners.size());
        merged.corners.insert(merged.corners.end(), piece.mesh.corners.begin(), piece.mesh.corners.end());
        merged.normals.insert(merged.normals.end(), piece.mesh.normals.begin(), piece.mesh.normals.end());
        columns.resize(merged.corners.size(), (float(column) + 0.5f) / float(wide));
        for (size_t i = 0; i < piece.mesh.triangles.size(); ++i) {
            const auto& [outside, inside] = materials[breakable];
            const auto& t = piece.mesh.triangles[i];
            parts[size_t(i < piece.outer ? outside : inside)].triangles.push_back(
                {first + t[0], first + t[1], first + t[2]});
        }
        ++column;
    }
    std::vector<uint16_t> place_codes, turn_codes;
    const Vec3 extent = high - low;
    const auto share = [](float value, float from, float length) {
        return length > 0 ? (value - from) / length : 0;
    };
    for (size_t i = 0; i < pixels; ++i) {
        place_codes.insert(place_codes.end(), {code_of(share(place[0].values[i], low.x, extent.x)),
                                               code_of(share(place[1].values[i], low.y, extent.y)),
                                               code_of(share(place[2].values[i], low.z, extent.z)),
                                               code_of(place[3].values[i])});
        for (const NamedChannel& part : turn) {
            turn_codes.push_back(code_of(part.values[i] * 0.5f + 0.5f));
        }
    }
    glb.add_node({.name = "pieces", .mesh = glb.add_mesh("pieces", merged, columns, parts)});
    nlohmann::ordered_json json;
    json["format"] = "crisp-ember pieces as textures";
    json["version"] = 1;
    json["pieces"] = wide;
    json["frames"] = frames;
    json["frames_per_s"] = frames_per_s_;
    json["box_low_m"] = {low.x, low.y, low.z};
    json["box_high_m"] = {high.x, high.y, high.z};
    const auto write_text = [&](const char* name, const std::string& text) {
        return write_file(folder / name, [&](std::ostream& stream) { stream << text; });
    };
    const std::function<std::optional<Problem>()> files[] = {
        [&] {
            return write_channels(wide, frames, {place[0], place[1], place[2], place[3]},
                                  folder / "place.exr");
        },
        [&] {
            return write_channels(wide, frames, {turn[0], turn[1], turn[2], turn[3]}, folder / "turn.exr");
        },
        [&] { return write_codes(wide, frames, 4, place_codes, folder / "place.png"); },
        [&] { return write_codes(wide, frames, 4, turn_codes, folder / "turn.png"); },
        [&] { return glb.write(folder / "mesh.glb"); },
        [&] { return write_text("decode.vert", decode_shader); },
        [&] { return write_text("decode.json", json.dump(1) + "\n"); }};
    for (const auto& write : files) {
        if (auto problem = write()) {
            return problem;
        }
    }
    return std::nullopt;
}

} // namespace ember
