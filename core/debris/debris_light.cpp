// Breakables: pieces that are not worth a body each. They fly and turn, meet the stage with their lowest
// point and roll over it, and do not meet one another; the particle kernels step them.
#include "core/debris/debris_step.h"

namespace ember::debris {

namespace {

// How far below a piece's middle its lowest point is taken to be.
float foot_of(const ember::Piece& piece) {
    return 0.4f * std::cbrt(piece.volume);
}

Axes turned_by(const Axes& axes, const Vec3& spin, float step_s) {
    const float angle = length(spin) * step_s;
    if (angle < 1e-6f) {
        return axes;
    }
    const Vec3 axis = normalized(spin, {0, 1, 0});
    const auto turned = [&](const Vec3& v) {
        return v * std::cos(angle) + cross(axis, v) * std::sin(angle) +
               axis * (dot(axis, v) * (1 - std::cos(angle)));
    };
    // Made square again, so that rounding does not add up.
    const Vec3 x = normalized(turned(axes.x), {1, 0, 0});
    const Vec3 up = turned(axes.y);
    const Vec3 y = normalized(up - x * dot(x, up), {0, 1, 0});
    return {x, y, cross(x, y)};
}

struct LightPiece {
    Instance* instance;
    Piece* piece;
    float foot;       // m, how far its lowest point is below its middle
    float impact = 0; // m/s, of the hardest of the step; tiny: it rests or slides
};

void fill(std::span<const LightPiece> lights, ParticleBlock& block) {
    block.count = int(lights.size());
    for (size_t i = 0; i < lights.size(); ++i) {
        const Piece& piece = *lights[i].piece;
        block.x[i] = piece.placement.position.x;
        block.y[i] = piece.placement.position.y - lights[i].foot;
        block.z[i] = piece.placement.position.z;
        block.vx[i] = piece.velocity.x;
        block.vy[i] = piece.velocity.y;
        block.vz[i] = piece.velocity.z;
        block.lifetime[i] = 1e30f;
        block.number[i] = piece.number;
    }
}

// Where a light piece is after the step, and what that means.
void land(Step& step, const std::string& id, const LightPiece& light, const Vec3& foot,
          const Vec3& velocity) {
    Piece& piece = *light.piece;
    piece.placement.position = foot + Vec3{0, light.foot, 0};
    piece.velocity = velocity;
    if (light.impact > 0) {
        piece.spin = cross({0, 1, 0}, velocity) / light.foot; // it rolls
    }
    piece.placement.axes = turned_by(piece.placement.axes, piece.spin, step.step_s);
    if (light.impact > least_hit) {
        PieceEvent& hit = step.state.events[id].hits.emplace_back();
        hit.place = foot;
        hit.velocity = velocity;
        hit.normal = {0, 1, 0};
        hit.strength = light.impact;
        hit.number = piece.number;
    }
    const bool is_slow = light.impact > 0 && length(velocity) <= step.breakable(id).rest_speed;
    piece.slow_s = is_slow ? (piece.slow_s < 0 ? step.now_s : piece.slow_s) : -1;
    note_rest(step, id, *light.instance, piece, has_rested(piece.slow_s, step.now_s), velocity);
}

} // namespace

// Small single pieces that are loose for long enough go on without a body.
void lighten(Step& step) {
    std::vector<int> numbers;
    for (const auto& [number, body] : step.state.bodies) {
        const Breakable& breakable = step.breakable(body.breakable);
        if (breakable.light_below <= 0 || body.is_fixed || body.pieces.size() != 1) {
            continue;
        }
        const Instance& instance = step.instance_of(body);
        const Piece& piece = instance.pieces[body.pieces.front()];
        const float across = std::cbrt(instance.cut->pieces[piece.cut_piece].volume);
        if (piece.is_loose && across < breakable.light_below &&
            step.now_s - piece.born_s >= double(breakable.light_after) - 1e-6) {
            numbers.push_back(number);
        }
    }
    for (const int number : numbers) {
        const Body& body = step.state.bodies.at(number);
        Instance& instance = step.instance_of(body);
        const uint32_t index = body.pieces.front();
        Piece& piece = instance.pieces[index];
        piece.velocity = step.world.velocity(number);
        piece.spin = step.world.spin(number);
        piece.slow_s = body.slow_s;
        take_out(step, instance, index, PieceState::light);
    }
}

void move_light(Step& step) {
    const BlockKernels& run = step.scene.kernels;
    ParticleBlock block;
    ForceSums sums;
    PathStarts starts;
    Impacts impacts;
    for (auto& [id, source] : step.state.sources) {
        const SourceProgram& program = step.programs.at(id);
        const Breakable& breakable = step.breakable(id);
        std::vector<LightPiece> lights;
        for (Instance& instance : source.instances) {
            for (Piece& piece : instance.pieces) {
                if (piece.state == PieceState::light) {
                    lights.push_back({&instance, &piece, foot_of(instance.cut->pieces[piece.cut_piece])});
                }
            }
        }
        for (size_t first = 0; first < lights.size(); first += block_size) {
            const std::span<LightPiece> part =
                std::span(lights).subspan(first, std::min<size_t>(block_size, lights.size() - first));
            fill(part, block);
            run.clear({}, block, sums);
            for (const Influence<ForceRow>& force : program.forces) {
                if (force.row.kind != FORCE_FOUND) {
                    run.add_force(force.row, block, step.step_s, {}, sums);
                }
            }
            run.advance({}, sums, step.step_s, block, starts);
            for (const Influence<ColliderRow>& collider : program.colliders) {
                if (collider.row.kind < 0) {
                    continue;
                }
                ColliderRow row = collider.row;
                row.bounce = std::sqrt(row.bounce * breakable.bounce);
                row.friction = std::sqrt(row.friction * breakable.friction);
                run.collide(row, starts, step.step_s, block, &impacts);
                for (size_t i = 0; i < part.size(); ++i) {
                    part[i].impact = std::max(part[i].impact, impacts.speed[i]);
                }
            }
            for (size_t i = 0; i < part.size(); ++i) {
                land(step, id, part[i], {block.x[i], block.y[i], block.z[i]},
                     {block.vx[i], block.vy[i], block.vz[i]});
            }
        }
    }
}

} // namespace ember::debris
