// Meshes, read in a process of their own: by the ending that their first bytes look like.
#include "fuzz/file_of_bytes.h"

#include "core/assets/mesh_file.h"

#include <cmath>
#include <cstring>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes obj(".obj"), ply(".ply"), stl(".stl"), off(".off"), gltf(".gltf"),
        glb(".glb");
    const auto begins = [&](const char* with) {
        return size >= std::strlen(with) && std::memcmp(bytes, with, std::strlen(with)) == 0;
    };
    const fuzz::FileOfBytes& file = begins("ply")     ? ply
                                    : begins("solid") ? stl
                                    : begins("OFF")   ? off
                                    : begins("glTF")  ? glb
                                    : begins("{")     ? gltf
                                                      : obj;
    Problems problems;
    const auto mesh = read_mesh(file.holding(bytes, size), problems);
    fuzz::must_say_why(mesh.has_value(), problems);
    if (mesh) {
        fuzz::must(!mesh->triangles.empty() && mesh->triangles.size() <= most_triangles, "it has triangles");
        for (const auto& triangle : mesh->triangles) {
            for (const uint32_t corner : triangle) {
                fuzz::must(corner < mesh->corners.size(), "triangles have corners that are there");
            }
        }
        for (const Vec3& corner : mesh->corners) {
            fuzz::must(std::isfinite(corner.x + corner.y + corner.z), "corners are finite");
        }
    }
    return 0;
}
