#include "read_back.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfInputFile.h>
#include <assimp/Importer.hpp>
#include <assimp/scene.h>
#include <openvdb/openvdb.h>

#include <functional>

namespace ember::sample {

std::map<std::string, ReadGrid> read_grids(const std::string& path) {
    openvdb::initialize();
    openvdb::io::File file(path);
    file.open();
    std::map<std::string, ReadGrid> grids;
    for (const auto& each : *file.getGrids()) {
        ReadGrid& grid = grids[each->getName()];
        grid.active = each->activeVoxelCount();
        const auto size = each->voxelSize();
        grid.voxel = {float(size.x()), float(size.y()), float(size.z())};
        const auto first = each->indexToWorld(openvdb::Vec3d(0, 0, 0));
        grid.first = {float(first.x()), float(first.y()), float(first.z())};
        grid.is_half = each->saveFloatAsHalf();
        if (const auto numbers = openvdb::gridPtrCast<openvdb::FloatGrid>(each)) {
            for (auto value = numbers->cbeginValueOn(); value; ++value) {
                grid.sum += double(*value);
            }
        } else if (const auto vectors = openvdb::gridPtrCast<openvdb::Vec3SGrid>(each)) {
            for (auto value = vectors->cbeginValueOn(); value; ++value) {
                grid.sum += double((*value).length());
            }
        }
    }
    return grids;
}

float value_at(const std::string& path, const std::string& grid, const Vec3& place) {
    openvdb::initialize();
    openvdb::io::File file(path);
    file.open();
    const auto read = openvdb::gridPtrCast<openvdb::FloatGrid>(file.readGrid(grid));
    const auto index = read->worldToIndex(openvdb::Vec3d(double(place.x), double(place.y), double(place.z)));
    return read->getConstAccessor().getValue(openvdb::Coord::round(index));
}

Vec3 ReadNode::place_at(double time_s) const {
    if (places.empty()) {
        return place;
    }
    size_t next = 0;
    while (next + 1 < places.size() && place_times[next] < time_s) {
        ++next;
    }
    if (next == 0 || place_times[next] <= time_s) {
        return places[next];
    }
    const double share = (time_s - place_times[next - 1]) / (place_times[next] - place_times[next - 1]);
    return places[next - 1] + (places[next] - places[next - 1]) * float(share);
}

std::vector<ReadNode> read_glb(const std::string& path) {
    Assimp::Importer importer;
    const aiScene* scene = importer.ReadFile(path, 0);
    std::vector<ReadNode> nodes;
    if (scene == nullptr) {
        return nodes;
    }
    const std::function<void(const aiNode*)> visit = [&](const aiNode* node) {
        ReadNode& read = nodes.emplace_back();
        read.name = node->mName.C_Str();
        for (unsigned i = 0; i < node->mNumMeshes; ++i) {
            read.corners += scene->mMeshes[node->mMeshes[i]]->mNumVertices;
        }
        aiVector3D scale, place;
        aiQuaternion turn;
        node->mTransformation.Decompose(scale, turn, place);
        read.place = {place.x, place.y, place.z};
        read.turn = {{turn.x, turn.y, turn.z}, turn.w};
        read.scale = scale.x;
        for (unsigned i = 0; i < scene->mNumAnimations; ++i) {
            const aiAnimation* animation = scene->mAnimations[i];
            const double per_s = animation->mTicksPerSecond > 0 ? animation->mTicksPerSecond : 1;
            for (unsigned j = 0; j < animation->mNumChannels; ++j) {
                const aiNodeAnim* channel = animation->mChannels[j];
                if (channel->mNodeName != node->mName) {
                    continue;
                }
                for (unsigned k = 0; k < channel->mNumPositionKeys; ++k) {
                    const auto& key = channel->mPositionKeys[k];
                    read.place_times.push_back(key.mTime / per_s);
                    read.places.push_back({key.mValue.x, key.mValue.y, key.mValue.z});
                }
                for (unsigned k = 0; k < channel->mNumRotationKeys; ++k) {
                    const auto& key = channel->mRotationKeys[k];
                    read.turn_times.push_back(key.mTime / per_s);
                    read.turns.push_back({{key.mValue.x, key.mValue.y, key.mValue.z}, key.mValue.w});
                }
                for (unsigned k = 0; k < channel->mNumScalingKeys; ++k) {
                    read.scale_times.push_back(channel->mScalingKeys[k].mTime / per_s);
                    read.scales.push_back(channel->mScalingKeys[k].mValue.x);
                }
            }
        }
        for (unsigned i = 0; i < node->mNumChildren; ++i) {
            visit(node->mChildren[i]);
        }
    };
    visit(scene->mRootNode);
    return nodes;
}

std::vector<float> read_channel(const std::string& path, const std::string& channel) {
    Imf::InputFile file(path.c_str());
    const auto window = file.header().dataWindow();
    const int width = window.max.x - window.min.x + 1, height = window.max.y - window.min.y + 1;
    std::vector<float> values(size_t(width) * size_t(height), -1e30f);
    Imf::FrameBuffer buffer;
    buffer.insert(channel, Imf::Slice(Imf::FLOAT, reinterpret_cast<char*>(values.data()), sizeof(float),
                                      sizeof(float) * size_t(width)));
    file.setFrameBuffer(buffer);
    file.readPixels(window.min.y, window.max.y);
    return values;
}

} // namespace ember::sample
