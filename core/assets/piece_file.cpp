// Pieces of animated glTF files, read by assimp.
#include "core/assets/decoding.h"
#include "core/assets/importing.h"

#include <assimp/Importer.hpp>
#include <assimp/postprocess.h>
#include <assimp/scene.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember {

namespace {

constexpr size_t most_corners = 20'000'000;

// The value of keys at a time: between two of them by `mix`, beyond them the nearest.
template <class Key, class Mix>
auto at_time(const Key* keys, unsigned count, double time, Mix mix) {
    const Key* after =
        std::upper_bound(keys, keys + count, time, [](double t, const Key& key) { return t < key.mTime; });
    if (after == keys) {
        return keys->mValue;
    }
    const Key* before = after - 1;
    if (after == keys + count) {
        return before->mValue;
    }
    const double width = std::max(after->mTime - before->mTime, 1e-9);
    return mix(before->mValue, after->mValue, float((time - before->mTime) / width));
}

class PieceReader {
  public:
    PieceReader(const aiScene& scene, double frames_per_s) : scene_(scene) {
        file_.frames_per_s = frames_per_s;
        for (unsigned a = 0; a < scene.mNumAnimations; ++a) {
            const aiAnimation& animation = *scene.mAnimations[a];
            const double per_s = animation.mTicksPerSecond > 0 ? animation.mTicksPerSecond : 1000;
            for (unsigned c = 0; c < animation.mNumChannels; ++c) {
                const aiNodeAnim& channel = *animation.mChannels[c];
                channels_[channel.mNodeName.C_Str()] = {&channel, per_s};
                length_s_ =
                    std::max({length_s_, last(channel.mPositionKeys, channel.mNumPositionKeys) / per_s,
                              last(channel.mRotationKeys, channel.mNumRotationKeys) / per_s,
                              last(channel.mScalingKeys, channel.mNumScalingKeys) / per_s});
            }
        }
    }

    // Why it cannot be read; empty if it was.
    std::string read() {
        gather(*scene_.mRootNode, 0);
        if (nodes_.empty()) {
            return "no node with triangles";
        }
        if (!std::isfinite(length_s_) || length_s_ > 36000) {
            return "an animation that is longer than ten hours";
        }
        const auto frames = size_t(std::lround(length_s_ * file_.frames_per_s)) + 1;
        if (file_.corners.size() > most_corners || frames * nodes_.size() > most_piece_keys) {
            return std::to_string(nodes_.size()) + " pieces in " + std::to_string(frames) + " frames";
        }
        file_.keys.resize(frames * nodes_.size());
        for (size_t frame = 0; frame < frames; ++frame) {
            place(*scene_.mRootNode, aiMatrix4x4(), double(frame) / file_.frames_per_s,
                  frame * nodes_.size());
        }
        const bool is_finite = std::all_of(file_.keys.begin(), file_.keys.end(),
                                           [](const PieceKey& key) {
                                               return std::isfinite(key.place.x + key.place.y + key.place.z +
                                                                    key.turn.w + key.turn.v.x + key.size);
                                           }) &&
                               std::all_of(file_.corners.begin(), file_.corners.end(),
                                           [](const Vec3& c) { return std::isfinite(c.x + c.y + c.z); });
        return is_finite ? std::string() : "numbers that are not finite";
    }
    const PieceFile& file() const { return file_; }

  private:
    struct Channel {
        const aiNodeAnim* keys = nullptr;
        double ticks_per_s = 1;
    };
    template <class Key>
    static double last(const Key* keys, unsigned count) {
        return count > 0 ? keys[count - 1].mTime : 0;
    }

    void gather(const aiNode& node, uint32_t body) {
        PieceFile::Piece piece;
        piece.body = body;
        for (unsigned m = 0; m < node.mNumMeshes; ++m) {
            const aiMesh& part = *scene_.mMeshes[node.mMeshes[m]];
            for (unsigned i = 0; i < part.mNumVertices; ++i) {
                const aiVector3D& corner = part.mVertices[i];
                const aiVector3D normal = part.HasNormals() ? part.mNormals[i] : aiVector3D(0, 1, 0);
                file_.corners.emplace_back(corner.x, corner.y, corner.z);
                file_.normals.emplace_back(normal.x, normal.y, normal.z);
            }
            for (unsigned f = 0; f < part.mNumFaces; ++f) {
                const aiFace& face = part.mFaces[f];
                if (face.mNumIndices == 3 && std::all_of(face.mIndices, face.mIndices + 3,
                                                         [&](unsigned i) { return i < part.mNumVertices; })) {
                    const uint32_t first = piece.corners;
                    file_.triangles.push_back(
                        {first + face.mIndices[0], first + face.mIndices[1], first + face.mIndices[2]});
                    ++piece.triangles;
                    piece.outer += m == 0 ? 1 : 0;
                }
            }
            piece.corners += part.mNumVertices;
        }
        if (piece.triangles > 0) {
            nodes_[&node] = file_.pieces.size();
            file_.pieces.push_back(piece);
        } else { // what nobody draws
            file_.corners.resize(file_.corners.size() - piece.corners);
            file_.normals.resize(file_.corners.size());
        }
        // What hangs below the root are bodies, unless those are pieces themselves.
        const bool holds_bodies = &node == scene_.mRootNode && piece.triangles == 0 &&
                                  std::none_of(node.mChildren, node.mChildren + node.mNumChildren,
                                               [](const aiNode* child) { return child->mNumMeshes > 0; });
        for (unsigned c = 0; c < node.mNumChildren; ++c) {
            gather(*node.mChildren[c], holds_bodies ? c : body);
        }
    }

    aiMatrix4x4 own(const aiNode& node, double time_s) const {
        const auto found = channels_.find(node.mName.C_Str());
        if (found == channels_.end()) {
            return node.mTransformation;
        }
        aiVector3D scale, place;
        aiQuaternion turn;
        node.mTransformation.Decompose(scale, turn, place);
        const aiNodeAnim& keys = *found->second.keys;
        const double time = time_s * found->second.ticks_per_s;
        const auto mixed = [](const aiVector3D& a, const aiVector3D& b, float share) {
            return a + (b - a) * share;
        };
        if (keys.mNumPositionKeys > 0) {
            place = at_time(keys.mPositionKeys, keys.mNumPositionKeys, time, mixed);
        }
        if (keys.mNumScalingKeys > 0) {
            // What is not there at one of two keys comes or goes at once.
            scale = at_time(keys.mScalingKeys, keys.mNumScalingKeys, time,
                            [&](const aiVector3D& a, const aiVector3D& b, float share) {
                                return a.SquareLength() > 0 && b.SquareLength() > 0 ? mixed(a, b, share) : a;
                            });
        }
        if (keys.mNumRotationKeys > 0) {
            turn = at_time(keys.mRotationKeys, keys.mNumRotationKeys, time,
                           [](const aiQuaternion& a, const aiQuaternion& b, float share) {
                               aiQuaternion between;
                               aiQuaternion::Interpolate(between, a, b, share);
                               return between.Normalize();
                           });
        }
        return aiMatrix4x4(scale, turn, place);
    }

    void place(const aiNode& node, const aiMatrix4x4& above, double time_s, size_t first_key) {
        const aiMatrix4x4 here = above * own(node, time_s);
        if (const auto found = nodes_.find(&node); found != nodes_.end()) {
            PieceKey& key = file_.keys[first_key + found->second];
            constexpr float nothing = 1e-5f;
            const float size = std::cbrt(std::fabs(here.Determinant()));
            key.place = {here.a4, here.b4, here.c4};
            key.size = size > nothing ? size : 0;
            if (key.size > 0) {
                aiVector3D scale, place;
                aiQuaternion turn;
                here.Decompose(scale, turn, place);
                turn.Normalize();
                key.turn = {{turn.x, turn.y, turn.z}, turn.w};
            }
        }
        for (unsigned c = 0; c < node.mNumChildren; ++c) {
            place(*node.mChildren[c], here, time_s, first_key);
        }
    }

    const aiScene& scene_;
    std::map<std::string, Channel> channels_;
    std::map<const aiNode*, size_t> nodes_; // by the piece's number
    double length_s_ = 0;
    PieceFile file_;
};

} // namespace

std::optional<PieceFile> decode_pieces(const std::filesystem::path& path, double frames_per_s,
                                       Problems& problems) {
    const auto refuse = [&](std::string found) -> std::optional<PieceFile> {
        problems.push_back({path.string(), 0, "", std::move(found), "an animated glTF file with meshes"});
        return std::nullopt;
    };
    if (!(frames_per_s >= 0.1 && frames_per_s <= 240)) {
        return refuse("so many frames a second: " + std::to_string(frames_per_s));
    }
    Assimp::Importer importer;
    keep_only(importer, {"gltf", "glb"});
    importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
    const aiScene* scene = importer.ReadFile(path.string(), aiProcess_Triangulate | aiProcess_SortByPType |
                                                                aiProcess_GenNormals);
    if (scene == nullptr || scene->mRootNode == nullptr) {
        const std::string why = importer.GetErrorString();
        return refuse(why.empty() ? "no glTF file" : why.substr(0, 300));
    }
    PieceReader reader(*scene, frames_per_s);
    if (std::string why = reader.read(); !why.empty()) {
        return refuse(std::move(why));
    }
    return reader.file();
}

} // namespace ember
