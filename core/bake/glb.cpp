#include "core/bake/glb.h"

#include "core/base/file.h"

#include <algorithm>
#include <cstring>
#include <sstream>

#define TINYGLTF_NO_STB_IMAGE
#define TINYGLTF_NO_STB_IMAGE_WRITE
#define TINYGLTF_NO_INCLUDE_STB_IMAGE
#define TINYGLTF_NO_INCLUDE_STB_IMAGE_WRITE
#define TINYGLTF_NO_INCLUDE_JSON
#include <nlohmann/json.hpp>
#include <tiny_gltf.h>

namespace ember {

struct GlbFile::Inside {
    tinygltf::Model model;
    int times_of_last = -1; // accessor, and what it holds
    std::vector<float> last_times;

    // Appends numbers of `parts` each; returns their accessor.
    template <class Number>
    int add(const std::vector<Number>& numbers, int parts, int target, bool has_bounds) {
        static_assert(sizeof(Number) == 4);
        std::vector<unsigned char>& bytes = model.buffers[0].data;
        tinygltf::BufferView view;
        view.buffer = 0;
        view.byteOffset = bytes.size();
        view.byteLength = numbers.size() * sizeof(Number);
        view.target = target;
        bytes.resize(bytes.size() + view.byteLength);
        std::memcpy(bytes.data() + view.byteOffset, numbers.data(), view.byteLength);
        model.bufferViews.push_back(view);
        tinygltf::Accessor accessor;
        accessor.bufferView = int(model.bufferViews.size()) - 1;
        accessor.componentType = std::is_same_v<Number, float> ? TINYGLTF_COMPONENT_TYPE_FLOAT
                                                               : TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT;
        accessor.count = numbers.size() / size_t(parts);
        constexpr int types[] = {0, TINYGLTF_TYPE_SCALAR, TINYGLTF_TYPE_VEC2, TINYGLTF_TYPE_VEC3,
                                 TINYGLTF_TYPE_VEC4};
        accessor.type = types[parts];
        for (int part = 0; has_bounds && part < parts; ++part) {
            Number low = numbers[size_t(part)], high = low;
            for (size_t i = size_t(part); i < numbers.size(); i += size_t(parts)) {
                low = std::min(low, numbers[i]);
                high = std::max(high, numbers[i]);
            }
            accessor.minValues.push_back(double(low));
            accessor.maxValues.push_back(double(high));
        }
        model.accessors.push_back(accessor);
        return int(model.accessors.size()) - 1;
    }

    // Channels of a node share their times.
    int add_times(const std::vector<float>& times) {
        if (times_of_last < 0 || times != last_times) {
            times_of_last = add(times, 1, 0, true);
            last_times = times;
        }
        return times_of_last;
    }

    void add_channel(int node, const char* path, const char* way, int times, int values) {
        tinygltf::Animation& animation = model.animations[0];
        tinygltf::AnimationSampler sampler;
        sampler.input = times;
        sampler.output = values;
        sampler.interpolation = way;
        animation.samplers.push_back(sampler);
        tinygltf::AnimationChannel channel;
        channel.sampler = int(animation.samplers.size()) - 1;
        channel.target_node = node;
        channel.target_path = path;
        animation.channels.push_back(channel);
    }
};

namespace {

std::vector<float> flat(std::span<const Vec3> vectors) {
    std::vector<float> numbers;
    numbers.reserve(vectors.size() * 3);
    for (const Vec3& v : vectors) {
        numbers.insert(numbers.end(), {v.x, v.y, v.z});
    }
    return numbers;
}

} // namespace

GlbFile::GlbFile(const std::string& animation) : in_(std::make_unique<Inside>()) {
    in_->model.asset.version = "2.0";
    in_->model.asset.generator = "Crisp Ember";
    in_->model.buffers.emplace_back();
    in_->model.scenes.emplace_back();
    in_->model.defaultScene = 0;
    in_->model.animations.emplace_back();
    in_->model.animations[0].name = animation;
}

GlbFile::~GlbFile() = default;

int GlbFile::add_material(const GlbMaterial& material) {
    tinygltf::Material out;
    out.name = material.name;
    const Colour& c = material.colour;
    out.pbrMetallicRoughness.baseColorFactor = {double(c.red), double(c.green), double(c.blue),
                                                double(c.alpha)};
    for (double& part : out.pbrMetallicRoughness.baseColorFactor) {
        part = std::clamp(part, 0.0, 1.0);
    }
    out.pbrMetallicRoughness.metallicFactor = 0;
    out.pbrMetallicRoughness.roughnessFactor = std::clamp(double(material.roughness), 0.0, 1.0);
    const auto glow = [](float part) { return std::clamp(double(part), 0.0, 1.0); };
    out.emissiveFactor = {glow(material.glow.red), glow(material.glow.green), glow(material.glow.blue)};
    in_->model.materials.push_back(out);
    return int(in_->model.materials.size()) - 1;
}

int GlbFile::add_mesh(const std::string& name, const Mesh& mesh, std::span<const float> columns,
                      const std::vector<GlbPart>& parts) {
    tinygltf::Mesh out;
    out.name = name;
    const int places = in_->add(flat(mesh.corners), 3, TINYGLTF_TARGET_ARRAY_BUFFER, true);
    const bool has_normals = mesh.normals.size() == mesh.corners.size();
    const int normals =
        has_normals ? in_->add(flat(mesh.normals), 3, TINYGLTF_TARGET_ARRAY_BUFFER, false) : -1;
    int second = -1;
    if (!columns.empty()) {
        std::vector<float> numbers;
        for (const float column : columns) {
            numbers.insert(numbers.end(), {column, 0.0f});
        }
        second = in_->add(numbers, 2, TINYGLTF_TARGET_ARRAY_BUFFER, false);
    }
    for (const GlbPart& part : parts) {
        if (part.triangles.empty()) {
            continue;
        }
        std::vector<uint32_t> indices;
        for (const auto& triangle : part.triangles) {
            indices.insert(indices.end(), triangle.begin(), triangle.end());
        }
        tinygltf::Primitive primitive;
        primitive.attributes["POSITION"] = places;
        if (normals >= 0) {
            primitive.attributes["NORMAL"] = normals;
        }
        if (second >= 0) { // a second set may not be without a first
            primitive.attributes["TEXCOORD_0"] = second;
            primitive.attributes["TEXCOORD_1"] = second;
        }
        primitive.indices = in_->add(indices, 1, TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER, false);
        primitive.material = part.material;
        primitive.mode = TINYGLTF_MODE_TRIANGLES;
        out.primitives.push_back(primitive);
    }
    in_->model.meshes.push_back(out);
    return int(in_->model.meshes.size()) - 1;
}

int GlbFile::add_node(const GlbNode& node) {
    tinygltf::Node out;
    out.name = node.name;
    out.mesh = node.mesh;
    if (node.mesh >= 0) {
        out.translation = {double(node.place.x), double(node.place.y), double(node.place.z)};
        out.rotation = {double(node.turn.v.x), double(node.turn.v.y), double(node.turn.v.z),
                        double(node.turn.w)};
        out.scale.assign(3, double(node.scale));
    }
    in_->model.nodes.push_back(out);
    const int number = int(in_->model.nodes.size()) - 1;
    if (node.parent >= 0) {
        in_->model.nodes[size_t(node.parent)].children.push_back(number);
    } else {
        in_->model.scenes[0].nodes.push_back(number);
    }
    return number;
}

int GlbFile::add_moving(GlbNode node, const std::vector<MotionKey>& keys, int frames, double frames_per_s,
                        bool turns) {
    const auto time_of = [&](int frame) { return float(frame / frames_per_s); };
    const auto largest = std::max_element(
        keys.begin(), keys.end(), [](const MotionKey& a, const MotionKey& b) { return a.size < b.size; });
    const float whole = largest->size;
    const std::vector<MotionKey> kept = thinned(keys, std::max(whole, 1e-9f));
    const MotionKey &first = kept.front(), &last = kept.back();
    const bool comes = first.frame > 0, goes = last.frame + 1 < frames;
    node.place = first.place;
    node.turn = first.turn;
    node.scale = comes ? 0 : first.size;
    const int number = add_node(node);
    if (kept.size() > 1) {
        std::vector<float> times, turned;
        std::vector<Vec3> places;
        for (const MotionKey& key : kept) {
            times.push_back(time_of(key.frame));
            places.push_back(key.place);
            const Quaternion& q = key.turn;
            const float size = std::sqrt(dot(q, q));
            turned.insert(turned.end(), {q.v.x / size, q.v.y / size, q.v.z / size, q.w / size});
        }
        const int at = in_->add_times(times);
        in_->add_channel(number, "translation", "LINEAR", at, in_->add(flat(places), 3, 0, false));
        if (turns) {
            in_->add_channel(number, "rotation", "LINEAR", at, in_->add(turned, 4, 0, false));
        }
    }
    // It is there, or not, from one frame to the next; only what changes its size does so evenly.
    const bool is_even =
        std::any_of(kept.begin(), kept.end(), [&](const MotionKey& key) { return key.size != first.size; });
    std::vector<float> times, sizes;
    const auto add_size = [&](int frame, float size) {
        times.push_back(time_of(frame));
        sizes.insert(sizes.end(), 3, size);
    };
    if (comes) {
        add_size(0, 0);
        if (is_even && first.frame > 1) {
            add_size(first.frame - 1, 0);
        }
    }
    for (const MotionKey& key : kept) {
        if (key.frame == first.frame || is_even) {
            add_size(key.frame, key.size);
        }
    }
    if (goes) {
        add_size(last.frame + 1, 0);
    }
    if (times.size() > 1) {
        const int at = in_->add_times(times);
        in_->add_channel(number, "scale", is_even ? "LINEAR" : "STEP", at, in_->add(sizes, 3, 0, false));
    }
    return number;
}

std::optional<Problem> GlbFile::write(const std::filesystem::path& path) {
    tinygltf::Model& model = in_->model;
    if (model.animations[0].channels.empty()) {
        model.animations.clear();
    }
    if (model.buffers[0].data.empty()) {
        model.buffers.clear();
    }
    std::ostringstream out(std::ios::binary);
    if (!tinygltf::TinyGLTF().WriteGltfSceneToStream(&model, out, false, true)) {
        return Problem{path.string(), 0, "", "pieces that cannot be written as glTF", "fewer of them"};
    }
    const std::string bytes = out.str();
    return write_file(
        path, [&](std::ostream& stream) { stream.write(bytes.data(), std::streamsize(bytes.size())); });
}

} // namespace ember
