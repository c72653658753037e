// Breakables: the stage and its forces, as they act on bodies.
#include "core/debris/debris_step.h"
#include "core/geometry/blended_surface.h"

namespace ember::debris {

bool is_in(const Step& step, const std::vector<ReachRow>& reaches, const Vec3& place) {
    return std::any_of(reaches.begin(), reaches.end(), [&](const ReachRow& reach) {
        return step.scene.kernels.reach_share(reach, place) > 0.5f;
    });
}

bool lets_through(const void* context, const std::string& collider, int number) {
    const State& state = *static_cast<const State*>(context);
    const Body& body = state.bodies.at(number);
    const auto links = state.collider_links.find(collider);
    const auto link = links != state.collider_links.end() ? links->second.find(body.breakable)
                                                          : std::map<std::string, float>::const_iterator();
    if (links == state.collider_links.end() || link == links->second.end()) {
        return true;
    }
    const uint32_t number_of_piece = mixed_seed(body.instance, body.pieces.front());
    return random_of(hash_of(body.breakable) + hash_of(collider), number_of_piece, for_link) >= link->second;
}

void place_colliders(Step& step) {
    std::map<std::string, std::map<std::string, float>> links;
    std::map<size_t, ColliderRow> rows;
    for (const auto& [id, program] : step.programs) {
        for (const Influence<ColliderRow>& collider : program.colliders) {
            if (collider.row.kind >= 0) {
                links[step.effect.elements[collider.element].id][id] = collider.weight;
                rows.emplace(collider.element, collider.row);
            }
        }
    }
    std::vector<RigidCollider> colliders;
    std::map<std::string, GridMesh> meshes;
    for (const auto& [element, row] : rows) {
        const std::string& id = step.effect.elements[element].id;
        const auto window = step.scene.windows.find(element);
        const std::shared_ptr<const GridTable> grid =
            window != step.scene.windows.end() ? window->second : step.scene.prepared.elements[element]->grid;
        std::shared_ptr<const Mesh> mesh;
        if (row.kind == COLLIDER_DISTANCES) {
            GridMesh& kept = meshes[id] = step.state.grid_meshes[id];
            if (kept.grid != grid) {
                const std::array<int, 3> samples = {int(grid->cells.x), int(grid->cells.y),
                                                    int(grid->cells.z)};
                kept = {grid, std::make_shared<const Mesh>(
                                  surface_of(grid->values, samples, grid->low, 1 / grid->per_cell.x))};
            }
            mesh = kept.mesh;
        }
        if (row.kind != COLLIDER_DISTANCES || !mesh->triangles.empty()) {
            colliders.push_back(
                {id, int(element), row, step.from[element], step.to[element], grid, std::move(mesh)});
        }
    }
    step.state.grid_meshes = std::move(meshes);
    const bool other_links = links != step.state.collider_links;
    step.state.collider_links = std::move(links);
    step.world.set_colliders(colliders, other_links);
}

// Forces give bodies the velocity that they would give a particle there.
void push(Step& step) {
    for (const auto& [id, program] : step.programs) {
        std::vector<int> numbers;
        for (const auto& [number, body] : step.state.bodies) {
            if (body.breakable == id && (body.is_fixed || step.world.is_awake(number))) {
                numbers.push_back(number);
            }
        }
        ParticleBlock block;
        ForceSums sums;
        PathStarts starts;
        for (size_t first = 0; first < numbers.size(); first += block_size) {
            block.count = int(std::min<size_t>(block_size, numbers.size() - first));
            for (int i = 0; i < block.count; ++i) {
                const int number = numbers[first + size_t(i)];
                const Vec3 place = step.world.placement(number).position,
                           velocity = step.world.velocity(number);
                block.x[i] = place.x;
                block.y[i] = place.y;
                block.z[i] = place.z;
                block.vx[i] = velocity.x;
                block.vy[i] = velocity.y;
                block.vz[i] = velocity.z;
                block.lifetime[i] = 1e30f;
                block.number[i] = uint32_t(number);
            }
            step.scene.kernels.clear({}, block, sums);
            for (const Influence<ForceRow>& force : program.forces) {
                if (force.row.kind != FORCE_FOUND) {
                    step.scene.kernels.add_force(force.row, block, step.step_s, {}, sums);
                }
            }
            step.scene.kernels.advance({}, sums, step.step_s, block, starts);
            for (int i = 0; i < block.count; ++i) {
                const int number = numbers[first + size_t(i)];
                Body& body = step.state.bodies.at(number);
                const Vec3 velocity = {block.vx[i], block.vy[i], block.vz[i]};
                body.pushed = velocity - Vec3{starts.vx[i], starts.vy[i], starts.vz[i]};
                if (!body.is_fixed) {
                    step.world.set_velocity(number, velocity, step.world.spin(number));
                }
            }
        }
    }
}

} // namespace ember::debris
