// Meshes, read by assimp.
#include "core/assets/decoding.h"
#include "core/assets/importing.h"

#include <assimp/DefaultLogger.hpp>
#include <assimp/Importer.hpp>
#include <assimp/ProgressHandler.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstring>
#include <fstream>
#include <set>
#include <sstream>

namespace ember {

namespace {

// Importers ask now and then whether to go on.
class Watcher : public Assimp::ProgressHandler {
  public:
    Watcher(const Progress& progress, std::string what) : progress_(progress), what_(std::move(what)) {}
    bool Update(float share) override {
        cancelled_ = cancelled_ || !progress_.goes_on(what_, share < 0 ? 0.5f : share);
        return !cancelled_;
    }
    bool is_cancelled() const { return cancelled_; }

  private:
    const Progress& progress_;
    std::string what_;
    bool cancelled_ = false;
};

Problem problem(const std::filesystem::path& path, std::string place, std::string found,
                std::string expected) {
    return {path.string(), 0, std::move(place), std::move(found), std::move(expected)};
}

std::string ending_of(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    ending.erase(0, 1);
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return char(std::tolower(c)); });
    return ending;
}

// Appends a part of the scene, moved to where the scene has it.
// `dropped`: how many of its triangles could not be taken.
void append(const aiScene& scene, const aiNode& node, const aiMatrix4x4& above, Mesh& mesh, size_t& dropped) {
    const aiMatrix4x4 here = above * node.mTransformation;
    const bool mirrors = here.Determinant() < 0;
    for (unsigned m = 0; m < node.mNumMeshes; ++m) {
        const aiMesh& part = *scene.mMeshes[node.mMeshes[m]];
        const auto first = uint32_t(mesh.corners.size());
        for (unsigned i = 0; i < part.mNumVertices; ++i) {
            const aiVector3D place = here * part.mVertices[i];
            mesh.corners.emplace_back(place.x, place.y, place.z);
        }
        for (unsigned f = 0; f < part.mNumFaces; ++f) {
            const aiFace& face = part.mFaces[f];
            const bool is_whole = face.mNumIndices == 3 && face.mIndices[0] < part.mNumVertices &&
                                  face.mIndices[1] < part.mNumVertices &&
                                  face.mIndices[2] < part.mNumVertices;
            if (is_whole) {
                const uint32_t a = first + face.mIndices[0], b = first + face.mIndices[1],
                               c = first + face.mIndices[2];
                mesh.triangles.push_back(mirrors ? std::array{a, c, b} : std::array{a, b, c});
            } else {
                ++dropped;
            }
        }
    }
    for (unsigned c = 0; c < node.mNumChildren; ++c) {
        append(scene, *node.mChildren[c], here, mesh, dropped);
    }
}

// How many triangles a glTF file tells of. The import library leaves out those that name corners which are
// not there, without a word.
size_t triangles_told(const std::filesystem::path& path, const std::string& ending) {
    std::ifstream file(path, std::ios::binary);
    std::string text((std::istreambuf_iterator<char>(file)), {});
    if (ending == "glb") {
        constexpr size_t header_bytes = 20; // of the file and of its first part, which is the JSON
        uint32_t bytes = 0;
        if (text.size() < header_bytes) {
            return 0;
        }
        std::memcpy(&bytes, text.data() + 12, sizeof bytes);
        text = text.substr(header_bytes, bytes);
    }
    const auto json = nlohmann::json::parse(text, nullptr, false);
    size_t triangles = 0;
    try {
        for (const auto& mesh : json.at("meshes")) {
            for (const auto& part : mesh.at("primitives")) {
                const auto& corners =
                    part.contains("indices") ? part.at("indices") : part.at("attributes").at("POSITION");
                const size_t count = json.at("accessors").at(corners.get<size_t>()).at("count").get<size_t>();
                constexpr int list = 4, strip = 5, fan = 6; // glTF 2.0, 5.24.4: mode
                const int mode = part.value("mode", list);
                triangles += mode == list                   ? count / 3
                             : mode == strip || mode == fan ? count - std::min<size_t>(count, 2)
                                                            : 0;
            }
        }
    } catch (const nlohmann::json::exception&) {
        return 0; // another version, or what the library mends by itself
    }
    return triangles;
}

} // namespace

std::optional<Mesh> decode_mesh(const std::filesystem::path& path, Problems& problems,
                                const Progress& progress) {
    std::error_code error;
    const auto bytes = std::filesystem::file_size(path, error);
    if (error) {
        problems.push_back(problem(path, "", "no such file, or it cannot be read", "a mesh file"));
        return std::nullopt;
    }
    if (bytes > uint64_t(2) << 30) {
        problems.push_back(problem(path, "", std::to_string(bytes >> 20) + " MB", "at most 2048 MB"));
        return std::nullopt;
    }
    static const std::set<std::string> endings = {"obj", "ply", "stl", "off", "gltf", "glb"};
    const std::string ending = ending_of(path);
    if (!endings.contains(ending)) {
        problems.push_back(problem(path, "", "a file that ends in \"" + ending + "\"",
                                   "a mesh that OBJ, PLY, STL, OFF or glTF describes"));
        return std::nullopt;
    }
    auto* watcher = new Watcher(progress, "Reading " + path.filename().string()); // the importer deletes it
    Assimp::Importer importer;
    importer.SetProgressHandler(watcher);
    keep_only(importer, endings);
    importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
    importer.SetPropertyInteger(AI_CONFIG_PP_RVC_FLAGS,
                                aiComponent_NORMALS | aiComponent_TEXCOORDS | aiComponent_COLORS |
                                    aiComponent_TANGENTS_AND_BITANGENTS | aiComponent_MATERIALS);
    const aiScene* scene = importer.ReadFile(
        path.string(), aiProcess_RemoveComponent | aiProcess_Triangulate | aiProcess_SortByPType);
    if (watcher->is_cancelled()) {
        return std::nullopt;
    }
    if (scene == nullptr || scene->mRootNode == nullptr) {
        const std::string why = importer.GetErrorString();
        problems.push_back(problem(path, "", why.empty() ? "not a mesh" : why.substr(0, 300),
                                   "a mesh that OBJ, PLY, STL, OFF or glTF describes"));
        return std::nullopt;
    }
    Mesh mesh;
    size_t dropped = 0;
    if (ending == "gltf" || ending == "glb") {
        size_t read = 0;
        std::for_each_n(scene->mMeshes, scene->mNumMeshes,
                        [&](const aiMesh* part) { read += part->mNumFaces; });
        const size_t told = triangles_told(path, ending);
        dropped += told - std::min(told, read);
    }
    append(*scene, *scene->mRootNode, aiMatrix4x4(), mesh, dropped);
    if (mesh.triangles.empty()) {
        problems.push_back(problem(path, "", "no triangles", "a mesh with at least one triangle"));
        return std::nullopt;
    }
    if (mesh.triangles.size() > most_triangles) {
        problems.push_back(problem(path, "", std::to_string(mesh.triangles.size()) + " triangles",
                                   "at most " + std::to_string(most_triangles)));
        return std::nullopt;
    }
    for (size_t i = 0; i < mesh.corners.size(); ++i) {
        const Vec3& c = mesh.corners[i];
        if (!(std::fabs(c.x) < 1e6f && std::fabs(c.y) < 1e6f && std::fabs(c.z) < 1e6f)) {
            problems.push_back(problem(path, "corner " + std::to_string(i + 1),
                                       "a coordinate that is not finite or beyond 1000 km",
                                       "finite coordinates"));
            return std::nullopt;
        }
    }
    mesh.join_corners();
    if (mesh.area() <= 0) {
        problems.push_back(problem(path, "", "triangles without any area", "a mesh with a surface"));
        return std::nullopt;
    }
    mesh.find_normals();
    if (dropped > 0) {
        problems.push_back(problem(path, "",
                                   std::to_string(dropped) + (dropped == 1 ? " triangle" : " triangles") +
                                       " without three corners of the file, which are left out",
                                   "triangles that name corners which are there"));
    }
    return mesh;
}

} // namespace ember
