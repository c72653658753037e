// What an effect reads from files beside its own: meshes, grids, images, keys; and breakables, cut apart.
//
// Reading can take long (a mesh of a million triangles, a distance grid): it is done off the interface's and
// the simulation's threads, reports progress and can be cancelled. What was read never changes and is shared.
//
//     AssetLibrary library;
//     LoadResult loaded = library.load(*effect, folder);
//     simulation.set_effect(effect, loaded.assets);
#pragma once

#include "core/assets/clip.h"
#include "core/assets/files.h"
#include "core/assets/image.h"
#include "core/assets/mesh_file.h"
#include "core/assets/piece_clip.h"
#include "core/assets/smoke_clip.h"
#include "core/assets/vector_grid.h"
#include "core/cutting/cut.h"
#include "core/effect/effect.h"
#include "core/geometry/distance_field.h"

#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <variant>

namespace ember {

using Asset = std::variant<Mesh, DistanceField, VectorGrid, HeightImage, KeyTrack, Image, Cut, Clip,
                           SmokeClip, PieceClip>;

/// What one effect needs, by AssetNeed::key(). What could not be read is missing: the elements that need it
/// do nothing, textures are white, meshes are cubes.
struct Assets {
    std::map<std::string, std::shared_ptr<const Asset>> by_key;

    template <class T>
    std::shared_ptr<const T> find(const std::string& key) const {
        const auto found = by_key.find(key);
        if (found == by_key.end() || !std::holds_alternative<T>(*found->second)) {
            return nullptr;
        }
        return {found->second, &std::get<T>(*found->second)};
    }
};

enum class AssetKind {
    mesh,
    distances,
    vectors,
    heights,
    keys,
    image,
    body,
    cut,
    clip,
    smoke_clip,
    piece_clip
};

/// What a parameter of an element, look, texture or the stage needs from a file.
struct AssetNeed {
    AssetKind kind;
    std::string holder; // id
    std::string parameter;
    std::string file;
    float cell = 0;    // of distances, in the mesh's own unit; 0: by the longest side
    int cells = 0;     // along the longest side; of smoke: which volume
    uint32_t seed = 0; // of a cut
    std::shared_ptr<const Breakable> breakable = nullptr; // that is to be cut; the file may be none

    /// The same for everyone who needs the same thing.
    std::string key() const;
};

/// What an element needs; a file that is not named is no need. Breakables without a seed of their own are cut
/// by the effect's.
std::vector<AssetNeed> needs_of(const Element& element, uint32_t effect_seed);
std::vector<AssetNeed> needs_of(const Look& look);
std::vector<AssetNeed> needs_of(const Texture& texture);
std::vector<AssetNeed> needs_of(const Stage& stage);
std::vector<AssetNeed> needs_of(const Effect& effect);

struct LoadResult {
    Assets assets;
    Problems missing; // what could not be read
    Problems notes;   // what could, but not as it was meant: an open mesh as a thin shell
};

/// Keeps what has been read. May be used from several threads.
class AssetLibrary {
  public:
    /// Reads what is not there yet. `progress` is told what is being read and may cancel; what was read until
    /// then is kept.
    LoadResult load(const Effect& effect, const std::filesystem::path& folder, const Progress& progress = {});

    /// What is there already, without reading; `complete` says whether that is all the effect needs.
    Assets ready(const Effect& effect, const std::filesystem::path& folder, bool& complete) const;

    /// Forgets what was read, so that changed files are read anew.
    void forget();

  private:
    struct Entry {
        std::shared_ptr<const Asset> asset; // null if it cannot be read
        Problems problems;
    };
    Entry read(const AssetNeed& need, const std::filesystem::path& folder, const Progress& progress);

    mutable std::mutex mutex_;
    std::map<std::string, Entry> entries_; // by folder and key
};

} // namespace ember
