// Compiled once for each instruction set; EMBER_ISA names the namespace (see core/CMakeLists.txt).
#include "core/blocks/block_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>

namespace ember::EMBER_ISA {

#include "kernels/common.kern"

#include "kernels/random.kern"

#include "kernels/noise.kern"

#include "kernels/reach.kern"

#include "kernels/forces.kern"

#include "kernels/motion.kern"

#include "kernels/springs.kern"

#include "kernels/birth.kern"

#include "kernels/form.kern"

#include "kernels/surfaces.kern"

#include "kernels/collide.kern"

#include "kernels/neighbours.kern"

namespace {

void give_birth(const BirthRow& row, uint32_t first, int count, const BirthOrigins& origins,
                ParticleBlock& block) {
    for (int i = 0; i < count; i += lanes) {
        const kuint number = kuint(first + uint32_t(i)) + lane_index_uint();
        const real moment = load(origins.moment + i);
        const BirthPlace place = birth_place(row, number, moment);
        store3(block.x + i, block.y + i, block.z + i,
               load3(origins.x + i, origins.y + i, origins.z + i) +
                   out_of_axes(row.axis_x, row.axis_y, row.axis_z, place.point));
        store3(block.vx + i, block.vy + i, block.vz + i,
               load3(origins.vx + i, origins.vy + i, origins.vz + i) + birth_velocity(row, number, place));
        store(block.lifetime + i,
              between(row.lifetime_low, row.lifetime_high, unit_random(row.seed, number, FOR_LIFETIME)));
        store(block.size + i, between(row.size_low, row.size_high, unit_random(row.seed, number, FOR_SIZE)));
        store(block.age + i, real(0.0f) - moment);
        store_uint(block.number + i, number);
    }
    block.count = count;
}

void form(const FormRow& row, const ParticleBlock& block, BlockForms& forms) {
    for (int i = 0; i < block.count; i += lanes) {
        const kuint number = load_uint(block.number + i);
        const real age = max(load(block.age + i), real(0.0f));
        const real lifetime = load(block.lifetime + i);
        const Turn turn =
            form_turn(row, number, age, lifetime, load3(block.vx + i, block.vy + i, block.vz + i));
        store3(forms.turn_x + i, forms.turn_y + i, forms.turn_z + i, turn.v);
        store(forms.turn_w + i, turn.w);
        store3(forms.stretch_x + i, forms.stretch_y + i, forms.stretch_z + i,
               form_stretch(row, number, age, lifetime));
    }
}

real life_share(const ParticleBlock& block, int i) {
    return max(load(block.age + i), real(0.0f)) / load(block.lifetime + i);
}

void clear(const LifeUse& life, const ParticleBlock& block, ForceSums& sums) {
    sums.has_springs = false;
    sums.has_ends = false;
    for (int i = 0; i < block.count; i += lanes) {
        store3(sums.push_x + i, sums.push_y + i, sums.push_z + i, every_lane({}));
        store(sums.damping + i, real(0.0f));
    }
    if (life.carries) {
        for (int i = 0; i < block.count; i += lanes) {
            store3(sums.carry_x + i, sums.carry_y + i, sums.carry_z + i, every_lane({}));
        }
    }
    if (life.holds) {
        for (int i = 0; i < block.count; i += lanes) {
            store(sums.hold + i, force_hold(life.row, load_uint(block.number + i), life_share(block, i)));
        }
    }
}

// The share of its step that a newborn has left, in seconds.
real own_step(const ParticleBlock& block, int i, float step_s) {
    return real(step_s) + min(load(block.age + i), real(0.0f));
}

rvec3 place_in_mid_step(const ParticleBlock& block, int i, float step_s) {
    return load3(block.x + i, block.y + i, block.z + i) +
           load3(block.vx + i, block.vy + i, block.vz + i) * (own_step(block, i, step_s) * real(0.5f));
}

// How strongly a force acts on particles at a place: by reach, mass and hold.
real share_of(const ForceRow& row, const ForceSums& sums, int i, const rvec3& place) {
    const real share = reach_share(row.reach, place);
    return row.is_held != 0 ? share * load(sums.hold + i) : share;
}

void add_to(float* x, float* y, float* z, const rvec3& v) {
    store3(x, y, z, load3(x, y, z) + v);
}

// Runs `add(position, velocity, i, sums)` over the block; reach, mass and hold are applied here, for all
// forces alike.
template <class Add>
void each_particle(const ForceRow& row, const ParticleBlock& block, float step_s, ForceSums& sums, Add add) {
    const bool is_limited = row.reach.shape != REACH_EVERYWHERE;
    for (int i = 0; i < block.count; i += lanes) {
        const rvec3 velocity = load3(block.vx + i, block.vy + i, block.vz + i);
        const rvec3 middle = place_in_mid_step(block, i, step_s);
        Sums own = {every_lane({}), real(0.0f), every_lane({})};
        add(middle, velocity, i, own);
        if (is_limited || row.is_held != 0) {
            const real share = share_of(row, sums, i, middle);
            own.push = own.push * share;
            own.damping = own.damping * max(share, real(0.0f));
            own.carry = own.carry * share;
        }
        add_to(sums.push_x + i, sums.push_y + i, sums.push_z + i, own.push);
        store(sums.damping + i, load(sums.damping + i) + own.damping);
        if (row.kind == FORCE_WAVES) {
            add_to(sums.carry_x + i, sums.carry_y + i, sums.carry_z + i, own.carry);
        }
    }
}

// A pull is held to what keeps a step stable, in whatever share it acts (the Verlet method is up to 4).
void add_pulls(const ForceRow& row, const ParticleBlock& block, float step_s, ForceSums& sums) {
    each_particle(row, block, step_s, sums, [&](const rvec3& place, const rvec3&, int i, Sums& own) {
        const real share = max(abs(share_of(row, sums, i, place)), real(1.0f));
        add_pull(row, place, real(2.0f / (step_s * step_s)) / share, own);
    });
}

void add_springs(const ForceRow& row, const ParticleBlock& block, float step_s, ForceSums& sums) {
    if (!sums.has_springs) {
        sums.has_springs = true;
        for (int i = 0; i < block.count; i += lanes) {
            store3(sums.same_x + i, sums.same_y + i, sums.same_z + i, every_lane({}));
            store3(sums.mixed_x + i, sums.mixed_y + i, sums.mixed_z + i, every_lane({}));
        }
    }
    for (int i = 0; i < block.count; i += lanes) {
        const real step = max(own_step(block, i, step_s), real(1e-6f));
        const real share = share_of(row, sums, i, place_in_mid_step(block, i, step_s));
        // What a hold over life turns round repels: nothing to be solved.
        const real held = max(share, real(0.0f));
        const SpringStep spring =
            spring_step(held * step * step * real(row.stiffness), held * step * real(row.linear));
        const rvec3 way =
            held_part(row, every_lane(row.position) - load3(block.x + i, block.y + i, block.z + i));
        const real stiffness =
            sel(share < real(0.0f), share * real(row.stiffness), spring.pull / (step * step));
        const Resistance own = resistance(row, spring);
        add_to(sums.push_x + i, sums.push_y + i, sums.push_z + i, way * stiffness);
        add_to(sums.same_x + i, sums.same_y + i, sums.same_z + i, own.same);
        add_to(sums.mixed_x + i, sums.mixed_y + i, sums.mixed_z + i, own.mixed);
    }
}

void end_at_path(const ForceRow& row, const ParticleBlock& block, ForceSums& sums) {
    for (int i = 0; i < block.count; i += lanes) {
        const real before = sums.has_ends ? load(sums.ends + i) : real(0.0f);
        const rvec3 place = load3(block.x + i, block.y + i, block.z + i);
        const real share = reach_share(row.reach, place);
        const kmask ends = both(is_at_path_end(row, place), share > real(0.5f));
        store(sums.ends + i, sel(ends, real(1.0f), before));
    }
    sums.has_ends = true;
}

void add_force(const ForceRow& row, const ParticleBlock& block, float step_s, const FoundPush& found,
               ForceSums& sums) {
    using V = const rvec3&;
    const auto each = [&](auto add) { each_particle(row, block, step_s, sums, add); };
    switch (row.kind) {
    case FORCE_PUSH:
        return each([&](V, V, int, Sums& own) { add_push(row, own); });
    case FORCE_AIR:
        return each([&](V, V, int, Sums& own) { add_air(row, every_lane(row.air), own); });
    case FORCE_DRAG:
        return each([&](V, V velocity, int, Sums& own) { add_drag(row, velocity, own); });
    case FORCE_TURBULENCE:
        return each([&](V place, V, int, Sums& own) { add_turbulence(row, place, own); });
    case FORCE_WAVES:
        return each([&](V place, V, int, Sums& own) { add_waves(row, place, own); });
    case FORCE_VORTEX:
        return each([&](V place, V, int, Sums& own) { add_vortex(row, place, own); });
    case FORCE_PULL:
        return add_pulls(row, block, step_s, sums);
    case FORCE_SPRING:
        return add_springs(row, block, step_s, sums);
    case FORCE_PATH:
        each([&](V place, V, int, Sums& own) { add_path(row, place, own); });
        return row.variant == PATH_DIE ? end_at_path(row, block, sums) : void();
    case FORCE_GRID:
        return each([&](V place, V, int, Sums& own) { add_grid(row, place, own); });
    case FORCE_JITTER:
        return each([&](V, V, int i, Sums& own) { add_jitter(row, load_uint(block.number + i), own); });
    case FORCE_FOUND:
        if (found.x != nullptr) {
            each([&](V, V, int i, Sums& own) {
                own.push = load3(found.x + i, found.y + i, found.z + i) * real(row.strength);
            });
        }
        return;
    default:
        return;
    }
}

void advance_block(const LifeUse& life, const ForceSums& sums, float step_s, ParticleBlock& block,
                   PathStarts& starts) {
    for (int i = 0; i < block.count; i += lanes) {
        rvec3 position = load3(block.x + i, block.y + i, block.z + i);
        rvec3 velocity = load3(block.vx + i, block.vy + i, block.vz + i);
        store3(starts.x + i, starts.y + i, starts.z + i, position);
        store3(starts.vx + i, starts.vy + i, starts.vz + i, velocity);
        // A newborn waits until its moment within the step.
        const real step = own_step(block, i, step_s);
        const rvec3 push = load3(sums.push_x + i, sums.push_y + i, sums.push_z + i);
        const real damping = load(sums.damping + i);
        if (sums.has_springs) {
            const Resistance springs = {load3(sums.same_x + i, sums.same_y + i, sums.same_z + i),
                                        load3(sums.mixed_x + i, sums.mixed_y + i, sums.mixed_z + i)};
            advance_held(push, damping, springs, step, position, velocity);
        } else {
            advance(push, damping, step, position, velocity);
        }
        if (life.carries) {
            position = position + load3(sums.carry_x + i, sums.carry_y + i, sums.carry_z + i) * step;
        }
        if (life.limits) {
            velocity = limited(life.row, velocity, life_share(block, i));
        }
        store3(block.x + i, block.y + i, block.z + i, contained3(position, FARTHEST));
        store3(block.vx + i, block.vy + i, block.vz + i, contained3(velocity, FASTEST));
        real age = load(block.age + i) + real(step_s);
        if (sums.has_ends) {
            age = sel(load(sums.ends + i) > real(0.5f), max(age, load(block.lifetime + i)), age);
        }
        store(block.age + i, age);
    }
}

// Runs `meet` (a contact finder) and the response over the block.
template <class Meet>
void collide_with(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block,
                  Impacts* impacts, Meet meet) {
    if (impacts != nullptr) {
        std::fill_n(impacts->speed, block.count, 0.0f);
    }
    for (int i = 0; i < block.count; i += lanes) {
        rvec3 start = load3(starts.x + i, starts.y + i, starts.z + i);
        if (row.is_moving != 0) {
            start = start_as_seen(row, start);
        }
        rvec3 position = load3(block.x + i, block.y + i, block.z + i);
        const Contact contact = meet(row, start, position, load(block.size + i) * real(0.5f));
        if (!any_lane(contact.met)) {
            continue;
        }
        const rvec3 before = load3(block.vx + i, block.vy + i, block.vz + i);
        rvec3 start_velocity = load3(starts.vx + i, starts.vy + i, starts.vz + i);
        rvec3 carried = every_lane({});
        if (row.is_moving != 0) {
            carried = surface_velocity(row, contact.point);
        }
        rvec3 velocity = before - carried;
        const real step = min(load(block.age + i), real(step_s));
        const real impact = respond(row, contact, load_uint(block.number + i), step, start_velocity - carried,
                                    position, velocity);
        store3(block.x + i, block.y + i, block.z + i, position);
        // What is not stopped keeps its velocity to the last digit, whatever its neighbours meet.
        velocity = sel3(impact > real(0.0f), velocity + carried, before);
        store3(block.vx + i, block.vy + i, block.vz + i, velocity);
        if (impacts != nullptr) {
            store(impacts->speed + i, impact);
            store3(impacts->normal_x + i, impacts->normal_y + i, impacts->normal_z + i, contact.normal);
        }
        if (row.on_hit == HIT_DIE) {
            const real age = load(block.age + i);
            store(block.age + i, sel(impact > real(0.0f), max(age, load(block.lifetime + i)), age));
        }
    }
}

// What goes over the edge of a map that ends it there.
void end_beyond(const ColliderRow& row, const PathStarts& starts, ParticleBlock& block) {
    for (int i = 0; i < block.count; i += lanes) {
        const kmask leaves = leaves_heights(row, load3(starts.x + i, starts.y + i, starts.z + i),
                                            load3(block.x + i, block.y + i, block.z + i));
        const real age = load(block.age + i);
        store(block.age + i, sel(leaves, max(age, load(block.lifetime + i)), age));
    }
}

void collide(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block,
             Impacts* impacts) {
    const auto with = [&](auto meet) { collide_with(row, starts, step_s, block, impacts, meet); };
    switch (row.kind) {
    case COLLIDER_PLANE:
        return with(meet_plane);
    case COLLIDER_BOX:
        return with(meet_box);
    case COLLIDER_BALL:
        return with(meet_ball);
    case COLLIDER_CAPSULE:
        return with(meet_capsule);
    case COLLIDER_CYLINDER:
        return with(meet_cylinder);
    case COLLIDER_HEIGHTS:
        with(meet_heights);
        return row.at_edge == EDGE_DIE ? end_beyond(row, starts, block) : void();
    case COLLIDER_DISTANCES:
        return with(meet_distances);
    case COLLIDER_HULL:
        return with(meet_hull);
    default:
        return;
    }
}

void meet_hulls(const ColliderRow& row, const PathStarts& starts, const ParticleBlock& block, float* order) {
    for (int i = 0; i < block.count; i += lanes) {
        rvec3 start = load3(starts.x + i, starts.y + i, starts.z + i);
        if (row.is_moving != 0) {
            start = start_as_seen(row, start);
        }
        const rvec3 end = load3(block.x + i, block.y + i, block.z + i);
        const Contact contact = meet_hull(row, start, end, load(block.size + i) * real(0.5f));
        const rvec3 put_out = contact.point - (start + (end - start) * contact.at);
        store(order + i, sel(contact.met, contact.at - sqrt(dot(put_out, put_out)), real(2.0f)));
    }
}

// --- neighbours ---

// From any place; the arrays are padded.
real load_at(const std::vector<float>& values, size_t at) {
#ifdef EMBER_SCALAR
    return values[at];
#else
    return real::load_unaligned(&values[at]);
#endif
}
// Where these entries are equal to `value`.
kmask load_at_is(const std::vector<uint32_t>& values, size_t at, uint32_t value) {
#ifdef EMBER_SCALAR
    return values[at] == value;
#else
    // The difference as a real is zero only where there is none.
    return abs(signed_real(kuint::load_unaligned(&values[at]) ^ kuint(value))) < real(0.5f);
#endif
}
rvec3 load3_at(const std::vector<float>& x, const std::vector<float>& y, const std::vector<float>& z,
               size_t at) {
    return {load_at(x, at), load_at(y, at), load_at(z, at)};
}

float sum_of(real lanes_of) {
    alignas(64) float values[lanes];
    store(values, lanes_of);
    float sum = 0;
    for (const float value : values) {
        sum += value;
    }
    return sum;
}
Vec3 sum_of(const rvec3& v) {
    return {sum_of(v.x), sum_of(v.y), sum_of(v.z)};
}

// In a heap all are near all. So that a heap is no stall only such pairs are looked at whose ranks within
// their cells are at most so far apart: if one of two sees the other, the other sees it too.
constexpr size_t most_ranks_apart = 512;

// Runs `visit(first sorted place, lanes that are other particles of this row of cells)` over all that may be
// near.
template <class Visit>
void each_near(const Neighbours& all, size_t self, Visit visit) {
    const int32_t cx = all.cell_of(all.x[self]);
    const int32_t cy = all.cell_of(all.y[self]);
    const int32_t cz = all.cell_of(all.z[self]);
    const size_t rank = self - all.starts[all.hash_of(cx, Neighbours::row_of(cy, cz))];
    const auto run = [&](size_t first, size_t last, uint32_t row) {
        for (size_t at = first; at < last; at += size_t(lanes)) {
            // A run may hold particles of another row with the same hash.
            const real place = lane_index();
            const kmask in_run = both(place < real(float(last - at)), load_at_is(all.rows, at, row));
            const kmask is_other = abs(place - real(float(int64_t(self) - int64_t(at)))) > real(0.5f);
            visit(at, both(in_run, is_other));
        }
    };
    for (int32_t dz = -1; dz <= 1; ++dz) {
        for (int32_t dy = -1; dy <= 1; ++dy) {
            const uint32_t row = Neighbours::row_of(cy + dy, cz + dz);
            const size_t hash = all.hash_of(cx - 1, row);
            const bool is_thin = hash + 2 <= all.hash_mask && rank <= most_ranks_apart &&
                                 all.starts[hash + 3] - all.starts[hash] <= most_ranks_apart;
            if (is_thin) {
                run(all.starts[hash], all.starts[hash + 3], row);
                continue;
            }
            for (int32_t dx = -1; dx <= 1; ++dx) {
                const size_t one = all.hash_of(cx + dx, row);
                const size_t first = all.starts[one], last = all.starts[one + 1];
                run(std::min(first + (rank - std::min(rank, most_ranks_apart)), last),
                    std::min(first + rank + most_ranks_apart + 1, last), row);
            }
        }
    }
}

void flock(const FlockRow& row, const Neighbours& all, size_t first, size_t last, FlockResult* results) {
    for (size_t self = first; self < last; ++self) {
        const rvec3 place = every_lane({all.x[self], all.y[self], all.z[self]});
        FlockSums sums = {every_lane({}), every_lane({}), every_lane({}), real(0.0f)};
        each_near(all, self, [&](size_t at, kmask is_other) {
            add_seen(row, load3_at(all.x, all.y, all.z, at) - place, load3_at(all.vx, all.vy, all.vz, at),
                     is_other, sums);
        });
        results[all.originals[self]] = {sum_of(sums.apart), sum_of(sums.heading), sum_of(sums.middle),
                                        sum_of(sums.seen)};
    }
}

// Runs `visit(pair, first sorted place of the others)` over all that may touch a particle.
template <class Visit>
void each_pair(const ContactRow& row, const Neighbours& all, float step_s, size_t self, Visit visit) {
    const rvec3 place = every_lane({all.x[self], all.y[self], all.z[self]});
    const rvec3 velocity = every_lane({all.vx[self], all.vy[self], all.vz[self]});
    each_near(all, self, [&](size_t at, kmask is_other) {
        const real sum_of_radii = load_at(all.radius, at) + real(all.radius[self]);
        visit(contact_pair(row, load3_at(all.x, all.y, all.z, at) - place,
                           load3_at(all.vx, all.vy, all.vz, at) - velocity, sum_of_radii, real(step_s),
                           is_other),
              at);
    });
}

void count_contacts(const ContactRow& row, const Neighbours& all, float step_s, size_t first, size_t last,
                    float* counts) {
    for (size_t self = first; self < last; ++self) {
        real count = real(0.0f);
        each_pair(row, all, step_s, self,
                  [&](const ContactPair& pair, size_t) { count = count + contact_count(pair); });
        counts[self] = sum_of(count);
    }
}

void contacts(const ContactRow& row, const Neighbours& all, const std::vector<float>& counts, float step_s,
              size_t first, size_t last, ContactResult* results) {
    for (size_t self = first; self < last; ++self) {
        if (counts[self] == 0) {
            continue;
        }
        ContactSums sums = {every_lane({}), every_lane({})};
        each_pair(row, all, step_s, self, [&](const ContactPair& pair, size_t at) {
            add_contact(row, pair, real(all.mass[self]), max(load_at(all.mass, at), real(1e-6f)),
                        real(counts[self]), load_at(counts, at), sums);
        });
        results[all.originals[self]] = {sum_of(sums.kick), sum_of(sums.shift)};
    }
}

float lane0(real value) {
    alignas(64) float values[lanes];
    store(values, value);
    return values[0];
}

float reach_share_at(const ReachRow& row, const Vec3& place) {
    return lane0(reach_share(row, every_lane(place)));
}

float chance(uint32_t seed, uint32_t number, uint32_t purpose) {
    return lane0(unit_random(seed, kuint(number), purpose));
}

} // namespace

extern const BlockKernels kernel_set = {give_birth,     clear,      add_force,      advance_block,
                                        collide,        meet_hulls, form,           flock,
                                        count_contacts, contacts,   reach_share_at, chance};

} // namespace ember::EMBER_ISA
