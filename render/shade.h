// Light of the stage along a ray: sky, ground planes and boxes, lit by the sun and the sky. Written in the
// language of kernels/prelude_cpp.h and included inside the namespace of an instruction set by
// render_kernels.cpp, once.

#pragma once

KERNEL_CONST uni far_away = 1e6f; // m

struct Surfel {
    real distance;
    rvec3 normal;
    rvec3 colour;
    real mirror;
    real puddles;
};

KERNEL real mixed(real a, real b, real share) {
    return a + (b - a) * share;
}
KERNEL rvec3 mixed3(rvec3 a, rvec3 b, real share) {
    return a + (b - a) * share;
}
KERNEL real unit(real a) {
    return min(max(a, real(0.0f)), real(1.0f));
}
KERNEL real power16(real a) {
    real b = a * a;
    b = b * b;
    b = b * b;
    return b * b;
}
KERNEL real safe_way(real a) {
    return sel(abs(a) < real(1e-7f), real(1e-7f), a);
}

KERNEL rvec3 sky_light(IN(StageScene) scene, rvec3 direction) {
    real height = max(direction.y, real(0.0f));
    rvec3 sky = mixed3(every_lane(scene.sky_horizon), every_lane(scene.sky_top),
                       real(1.0f) - exp(real(-4.0f) * height));
    real towards = max(dot(direction, every_lane(scene.sun_direction)), real(0.0f));
    return sky + every_lane(scene.sun_light) *
                     (power16(towards) * real(0.02f) + power16(power16(towards)) * real(0.08f));
}

// A star in some of the cells that a ball of directions is cut into, well inside its cell.
KERNEL rvec3 star_light(IN(StageScene) scene, rvec3 direction) {
    const uni cells = 42.0f;
    rvec3 place = direction * real(cells);
    rvec3 cell = floor3(place);
    kuint number = to_kuint(cell.x) * kuint(0x8da6b343u) + to_kuint(cell.y) * kuint(0xd8163841u) +
                   to_kuint(cell.z) * kuint(0xcb1ab31fu);
    rvec3 star =
        cell +
        rvec3(unit_random(11u, number, 1u), unit_random(11u, number, 2u), unit_random(11u, number, 3u)) *
            real(0.5f) +
        rvec3(real(0.25f), real(0.25f), real(0.25f));
    real along = dot(star, direction);
    rvec3 beside = star - direction * along;
    real off = dot(beside, beside) / real(cells * cells);
    real chance = unit_random(11u, number, 4u);
    real bright = max(chance - real(0.72f), real(0.0f)) * real(1.0f / 0.28f);
    real light =
        bright * bright * bright * unit(real(1.0f) - off / real(scene.star_size)) * real(scene.stars);
    real warm = unit_random(11u, number, 5u);
    return rvec3(light * (real(0.8f) + warm * real(0.4f)), light, light * (real(1.25f) - warm * real(0.5f)));
}

KERNEL rvec3 panorama_light(IN(Panorama) panorama, rvec3 direction) {
    const uni turn = 0.15915494f; // 1 / (2 pi)
    real u = xsimd::atan2(direction.x, direction.z) * real(turn) + real(panorama.turn);
    real v = xsimd::acos(min(max(direction.y, real(-1.0f)), real(1.0f))) * real(2.0f * turn);
    real x = (u - floor(u)) * real(float(panorama.width)) - real(0.5f);
    real y = v * real(float(panorama.height)) - real(0.5f);
    real left = floor(x);
    real top = floor(y);
    const auto wrapped = [&](real a) {
        real last = real(float(panorama.width - 1));
        return sel(a < real(0.0f), last, sel(a > last, real(0.0f), a));
    };
    const auto kept = [&](real a) { return min(max(a, real(0.0f)), real(float(panorama.height - 1))); };
    real rows[2] = {kept(top) * real(float(panorama.width)),
                    kept(top + real(1.0f)) * real(float(panorama.width))};
    real columns[2] = {wrapped(left), wrapped(left + real(1.0f))};
    const auto plane = [&](const float* from) {
        return mixed(mixed(fetch(from, rows[0] + columns[0]), fetch(from, rows[0] + columns[1]), x - left),
                     mixed(fetch(from, rows[1] + columns[0]), fetch(from, rows[1] + columns[1]), x - left),
                     y - top);
    };
    return rvec3(plane(panorama.red), plane(panorama.green), plane(panorama.blue));
}

// What is seen where nothing stands, without stars.
KERNEL rvec3 far_light(IN(StageScene) scene, rvec3 direction) {
    if (scene.background == int(Background::ramp)) {
        real at = floor(unit(direction.y * real(0.5f) + real(0.5f)) * real(255.0f) + real(0.5f));
        return rvec3(fetch(scene.ramp[0], at), fetch(scene.ramp[1], at), fetch(scene.ramp[2], at)) *
               real(scene.background_strength);
    }
    if (scene.background == int(Background::image) && scene.panorama.width > 0) {
        return panorama_light(scene.panorama, direction) * real(scene.background_strength);
    }
    return sky_light(scene, direction);
}

KERNEL rvec3 background_light(IN(StageScene) scene, rvec3 direction) {
    rvec3 light = far_light(scene, direction);
    return scene.stars > 0 ? light + star_light(scene, direction) : light;
}

// Smooth random brightness on a plane, 0..1, with features of about one unit.
KERNEL real blotches(real u, real v) {
    real fu = floor(u);
    real fv = floor(v);
    real a = u - fu;
    real b = v - fv;
    a = a * a * (real(3.0f) - a * real(2.0f));
    b = b * b * (real(3.0f) - b * real(2.0f));
    kuint cell = to_kuint(fu) * kuint(0x8da6b343u) + to_kuint(fv) * kuint(0xd8163841u);
    real low = mixed(unit_random(7u, cell, 1u), unit_random(7u, cell + kuint(0x8da6b343u), 1u), a);
    real high = mixed(unit_random(7u, cell + kuint(0xd8163841u), 1u),
                      unit_random(7u, cell + kuint(0x8da6b343u) + kuint(0xd8163841u), 1u), a);
    return mixed(low, high, b);
}

// Whether any of the rays comes near enough to a ball, from its origin on: most parts of the stage are out of
// the way of most rays, and this is the cheapest way to say so.
KERNEL bool may_meet(Vec3 middle, uni radius, rvec3 origin, rvec3 direction) {
    rvec3 away = every_lane(middle) - origin;
    real along = dot(away, direction);
    rvec3 beside = away - direction * along;
    return any_lane(both(dot(beside, beside) < real(radius * radius), along > real(-radius)));
}

struct SlabSpan {
    real enter;
    real leave;
    rvec3 normal; // at the entry, in the box's own axes
};

KERNEL rvec3 in_axes(IN(StageBox) box, rvec3 v) {
    return rvec3(dot(v, every_lane(box.axis_x)), dot(v, every_lane(box.axis_y)),
                 dot(v, every_lane(box.axis_z)));
}

KERNEL SlabSpan span_in_box(IN(StageBox) box, rvec3 origin, rvec3 direction) {
    rvec3 from = in_axes(box, origin - every_lane(box.position));
    rvec3 way = in_axes(box, direction);
    rvec3 one = rvec3(real(1.0f), real(1.0f), real(1.0f));
    rvec3 inverse = rvec3(one.x / safe_way(way.x), one.y / safe_way(way.y), one.z / safe_way(way.z));
    rvec3 middle = from * inverse * real(-1.0f);
    rvec3 half_way = rvec3(abs(inverse.x), abs(inverse.y), abs(inverse.z)) * every_lane(box.half_size);
    rvec3 near = middle - half_way;
    rvec3 far = middle + half_way;
    SlabSpan result;
    result.enter = max(near.x, max(near.y, near.z));
    result.leave = min(far.x, min(far.y, far.z));
    real zero = real(0.0f);
    result.normal =
        sel3(near.x >= result.enter, rvec3(sel(way.x > zero, zero - one.x, one.x), zero, zero),
             sel3(near.y >= result.enter, rvec3(zero, sel(way.y > zero, zero - one.x, one.x), zero),
                  rvec3(zero, zero, sel(way.z > zero, zero - one.x, one.x))));
    return result;
}

// Where a ray meets a shape: the ray is the path of a point through the ball round the shape, or through the
// box of a grid, in which at most `grid_steps` are taken.
KERNEL Contact ray_contact(IN(StageShape) shape, rvec3 origin, rvec3 direction, unint grid_steps,
                           INOUT(real) distance) {
    real along = dot(every_lane(shape.middle) - origin, direction);
    real first = max(along - real(shape.radius), real(0.0f));
    real last = max(along + real(shape.radius), real(0.001f));
    if (shape.row.kind == COLLIDER_HEIGHTS || shape.row.kind == COLLIDER_DISTANCES) {
        SlabSpan span = span_in_box(shape.bounds, origin, direction);
        kmask crosses = both(span.enter<span.leave, span.leave> real(0.0f));
        if (!any_lane(crosses)) {
            Contact none;
            none.met = real(1.0f) < real(0.0f);
            return none;
        }
        first = sel(crosses, max(span.enter, real(0.0f)), first);
        last = sel(crosses, max(span.leave, first + real(0.001f)), first + real(0.001f));
    }
    rvec3 start = origin + direction * first;
    rvec3 end = origin + direction * last;
    const ColliderRow& row = shape.row;
    Contact contact;
    if (row.kind == COLLIDER_BALL) {
        contact = meet_ball(row, start, end, real(0.0f));
    } else if (row.kind == COLLIDER_CAPSULE) {
        contact = meet_capsule(row, start, end, real(0.0f));
    } else if (row.kind == COLLIDER_CYLINDER) {
        contact = meet_cylinder(row, start, end, real(0.0f));
    } else if (row.kind == COLLIDER_HEIGHTS) {
        contact = follow_heights(row, start, end, real(0.0f), 64);
    } else {
        contact = follow_distances(row, start, end, real(0.0f), 0.2f, grid_steps);
    }
    distance = first + (last - first) * contact.at;
    return contact;
}

// Roughly how far a place is from a round shape, for the darkness between things that touch.
KERNEL real shape_gap(IN(StageShape) shape, rvec3 point) {
    const ColliderRow& row = shape.row;
    rvec3 local = in_axes(row.axis_x, row.axis_y, row.axis_z, point - every_lane(row.position));
    real up = row.kind == COLLIDER_BALL ? real(0.0f) : real(row.half_size.y);
    rvec3 out_of = rvec3(local.x, local.y - min(max(local.y, real(0.0f) - up), up), local.z);
    return magnitude(out_of) - real(row.half_size.x);
}

KERNEL Surfel nearest_surface(IN(StageScene) scene, rvec3 origin, rvec3 direction) {
    Surfel nearest;
    nearest.distance = real(far_away);
    nearest.normal = every_lane(Vec3(0, 1, 0));
    nearest.colour = every_lane(Vec3());
    nearest.mirror = real(0.0f);
    nearest.puddles = real(0.0f);
    for (const StagePlane& plane : scene.planes) {
        rvec3 normal = every_lane(plane.normal);
        real slope = dot(direction, normal);
        real t = dot(every_lane(plane.position) - origin, normal) /
                 sel(abs(slope) < real(1e-7f), real(1e-7f), slope);
        kmask hit = both(both(slope<real(0.0f), t> real(0.0f)), t < nearest.distance);
        nearest.distance = sel(hit, t, nearest.distance);
        nearest.normal = sel3(hit, normal, nearest.normal);
        nearest.colour = sel3(hit, every_lane(plane.colour), nearest.colour);
        nearest.mirror = sel(hit, real(plane.mirror), nearest.mirror);
        nearest.puddles = sel(hit, real(plane.puddles), nearest.puddles);
    }
    for (const StageBox& box : scene.boxes) {
        if (!may_meet(box.position, box.radius, origin, direction)) {
            continue;
        }
        SlabSpan span = span_in_box(box, origin, direction);
        kmask hit = both(both(span.enter<span.leave, span.enter> real(0.0f)), span.enter < nearest.distance);
        nearest.distance = sel(hit, span.enter, nearest.distance);
        rvec3 n = every_lane(box.axis_x) * span.normal.x + every_lane(box.axis_y) * span.normal.y +
                  every_lane(box.axis_z) * span.normal.z;
        nearest.normal = sel3(hit, n, nearest.normal);
        nearest.colour = sel3(hit, every_lane(box.colour), nearest.colour);
        nearest.mirror = sel(hit, real(0.0f), nearest.mirror);
    }
    for (const StageShape& shape : scene.shapes) {
        if (!may_meet(shape.middle, shape.radius, origin, direction)) {
            continue;
        }
        real distance = real(far_away);
        Contact contact = ray_contact(shape, origin, direction, 16, distance);
        kmask hit = both(both(contact.met, distance > real(1e-4f)), distance < nearest.distance);
        nearest.distance = sel(hit, distance, nearest.distance);
        nearest.normal = sel3(hit, contact.normal, nearest.normal);
        nearest.colour = sel3(hit, every_lane(shape.colour), nearest.colour);
        nearest.mirror = sel(hit, real(0.0f), nearest.mirror);
    }
    return nearest;
}

// Share of the sun that reaches a point past the boxes; the penumbra widens with the distance to what casts
// it.
KERNEL real sun_share(IN(StageScene) scene, rvec3 point) {
    real share = real(1.0f);
    for (const StageBox& box : scene.boxes) {
        // The penumbra reaches beyond the box.
        if (!may_meet(box.position, box.radius * 1.5f, point, every_lane(scene.sun_direction))) {
            continue;
        }
        SlabSpan span = span_in_box(box, point, every_lane(scene.sun_direction));
        real width = max(span.enter, real(0.0f)) * real(0.12f) + real(0.01f);
        real overlap = (span.leave - max(span.enter, real(0.0f))) / width + real(0.5f);
        share = share * (real(1.0f) - sel(span.leave > real(0.0f), unit(overlap), real(0.0f)));
    }
    for (const StageShape& shape : scene.shapes) {
        rvec3 towards = every_lane(scene.sun_direction);
        rvec3 from = point + towards * real(0.01f);
        if (may_meet(shape.middle, shape.radius, from, towards) && any_lane(share > real(0.0f))) {
            real distance = real(far_away);
            Contact contact = ray_contact(shape, from, towards, 9, distance); // shadows are soft enough
            share = sel(contact.met, real(0.0f), share);
        }
    }
    return share;
}

// 1 where nothing stands between a point and a lamp, 0 where something does.
KERNEL real lamp_share(IN(StageScene) scene, rvec3 point, rvec3 towards, real distance) {
    real share = real(1.0f);
    rvec3 from = point + towards * real(0.01f);
    for (const StageBox& box : scene.boxes) {
        if (may_meet(box.position, box.radius, from, towards)) {
            SlabSpan span = span_in_box(box, from, towards);
            kmask hit = both(both(span.enter<span.leave, span.leave> real(0.0f)), span.enter < distance);
            share = sel(hit, real(0.0f), share);
        }
    }
    for (const StageShape& shape : scene.shapes) {
        if (may_meet(shape.middle, shape.radius, from, towards) && any_lane(share > real(0.0f))) {
            real there = real(far_away);
            Contact contact = ray_contact(shape, from, towards, 9, there);
            share = sel(both(contact.met, there < distance), real(0.0f), share);
        }
    }
    return share;
}

// The light of lamps on a matt surface: it falls with the square of the distance, and smoothly to nothing at
// their reach.
KERNEL rvec3 lamp_light(IN(StageScene) scene, rvec3 point, rvec3 normal, bool with_shadows) {
    rvec3 sum = every_lane(Vec3());
    for (const StageLight& lamp : scene.lights) {
        rvec3 way = every_lane(lamp.position) - point;
        real square = max(dot(way, way), real(1e-4f));
        if (!any_lane(square < real(lamp.reach * lamp.reach))) {
            continue;
        }
        real distance = sqrt(square);
        rvec3 towards = way / distance;
        real inside = square * real(1 / (lamp.reach * lamp.reach));
        real window = max(real(1.0f) - inside * inside, real(0.0f));
        real amount = window * window / max(square, real(0.01f)) * max(dot(towards, normal), real(0.0f));
        if (lamp.cos_outer > -2) {
            real off = dot(towards, every_lane(lamp.direction)) * real(-1.0f);
            real cone = unit((off - real(lamp.cos_outer)) * real(1 / (lamp.cos_inner - lamp.cos_outer)));
            amount = amount * cone * cone;
        }
        if (with_shadows && lamp.shadows && any_lane(amount > real(1e-4f))) {
            amount = amount * lamp_share(scene, point, towards, distance);
        }
        sum = sum + every_lane(lamp.light) * amount;
    }
    return sum;
}

// Beyond this gap (m) other surfaces hardly darken one.
KERNEL_CONST uni far_gap = 1.5f;

// How open the sky is above a point: less so close to other surfaces.
KERNEL real openness(IN(StageScene) scene, rvec3 point) {
    real open = real(1.0f);
    for (const StageBox& box : scene.boxes) {
        rvec3 to_box = point - every_lane(box.position);
        if (!any_lane(dot(to_box, to_box) < real((box.radius + far_gap) * (box.radius + far_gap)))) {
            continue;
        }
        rvec3 local = in_axes(box, to_box);
        rvec3 out = rvec3(max(abs(local.x) - real(box.half_size.x), real(0.0f)),
                          max(abs(local.y) - real(box.half_size.y), real(0.0f)),
                          max(abs(local.z) - real(box.half_size.z), real(0.0f)));
        real gap = sqrt(dot(out, out));
        real near = real(1.0f) / (real(1.0f) + gap * gap * real(9.0f));
        open = open * (real(1.0f) - sel(gap > real(1e-3f), near * real(0.6f), real(0.0f)));
    }
    for (const StageShape& shape : scene.shapes) {
        if (shape.row.kind == COLLIDER_HEIGHTS || shape.row.kind == COLLIDER_DISTANCES) {
            continue;
        }
        rvec3 to_shape = point - every_lane(shape.middle);
        if (!any_lane(dot(to_shape, to_shape) < real((shape.radius + far_gap) * (shape.radius + far_gap)))) {
            continue;
        }
        real gap = shape_gap(shape, point);
        real near = real(1.0f) / (real(1.0f) + gap * gap * real(12.0f));
        open = open * (real(1.0f) - sel(gap > real(3e-3f), near * real(0.6f), real(0.0f)));
    }
    for (const StagePlane& plane : scene.planes) {
        real gap = dot(point - every_lane(plane.position), every_lane(plane.normal));
        real near = real(1.0f) / (real(1.0f) + gap * gap * real(16.0f));
        open = open * (real(1.0f) - sel(gap > real(1e-3f), near * real(0.5f), real(0.0f)));
    }
    return open;
}

// What a wet surface mirrors: the sky, or the dark silhouettes of boxes in front of it.
KERNEL rvec3 mirrored_light(IN(StageScene) scene, rvec3 point, rvec3 direction) {
    rvec3 light = sky_light(scene, direction);
    real nearest = real(far_away);
    for (const StageBox& box : scene.boxes) {
        if (!may_meet(box.position, box.radius, point, direction)) {
            continue;
        }
        SlabSpan span = span_in_box(box, point, direction);
        kmask hit = both(both(span.enter<span.leave, span.enter> real(0.0f)), span.enter < nearest);
        nearest = sel(hit, span.enter, nearest);
        light = sel3(hit, every_lane(box.colour * scene.sky_horizon * scene.sky_strength), light);
    }
    for (const StageShape& shape : scene.shapes) {
        // Grids are too dear to be mirrored in what is only a sheen.
        const bool is_grid = shape.row.kind == COLLIDER_HEIGHTS || shape.row.kind == COLLIDER_DISTANCES;
        if (!is_grid && may_meet(shape.middle, shape.radius, point, direction)) {
            real distance = real(far_away);
            Contact contact = ray_contact(shape, point, direction, 0, distance);
            kmask hit = both(both(contact.met, distance > real(1e-3f)), distance < nearest);
            nearest = sel(hit, distance, nearest);
            light = sel3(hit, every_lane(shape.colour * scene.sky_horizon * scene.sky_strength), light);
        }
    }
    return light;
}

KERNEL rvec3 skylight_on(IN(StageScene) scene, rvec3 normal) {
    real upward = normal.y * real(0.5f) + real(0.5f);
    return mixed3(every_lane(scene.sky_horizon) * real(0.7f),
                  every_lane(scene.sky_top) * real(0.6f) + every_lane(scene.sky_horizon) * real(0.8f),
                  upward) *
           real(scene.sky_strength);
}

// What still water or a polished floor shows: what stands above it, lit but without its shadows.
KERNEL rvec3 reflected_light(IN(StageScene) scene, rvec3 point, rvec3 direction) {
    rvec3 far = background_light(scene, direction);
    Surfel seen = nearest_surface(scene, point, direction);
    kmask met = seen.distance < real(far_away);
    if (!any_lane(met)) {
        return far;
    }
    rvec3 there = point + direction * min(seen.distance, real(10000.0f));
    real facing = max(dot(seen.normal, every_lane(scene.sun_direction)), real(0.0f));
    rvec3 light = skylight_on(scene, seen.normal) * real(0.8f) + every_lane(scene.sun_light) * facing +
                  lamp_light(scene, there, seen.normal, false);
    return sel3(met, seen.colour * light, far);
}

// `mirrored`: the share in which what is not part of the stage is mirrored too.
KERNEL rvec3 surface_light(IN(StageScene) scene, rvec3 point, rvec3 direction, Surfel surface,
                           INOUT(real) mirrored_share) {
    // Worn stone and wet sand: two sizes of blotches on every surface.
    rvec3 along = point + surface.normal * dot(point, surface.normal) * real(-1.0f);
    real u = along.x + along.y * real(0.7f);
    real v = along.z + along.y * real(0.3f);
    real grain = blotches(u * real(1.3f), v * real(1.3f)) * real(0.6f) +
                 blotches(u * real(6.1f), v * real(6.1f)) * real(0.4f);
    real calm = real(1.0f) / (real(1.0f) + surface.distance * surface.distance * real(0.004f));
    rvec3 colour = surface.colour * (real(1.0f) + (grain - real(0.5f)) * real(0.7f) * calm);

    real facing = max(dot(surface.normal, every_lane(scene.sun_direction)), real(0.0f));
    real sun = sun_share(scene, point + surface.normal * real(2e-3f));
    rvec3 light = skylight_on(scene, surface.normal) * openness(scene, point) +
                  every_lane(scene.sun_light) * (facing * sun);
    if (!scene.lights.empty()) {
        light = light + lamp_light(scene, point + surface.normal * real(2e-3f), surface.normal, true);
    }

    // A wet sheen: the sky is mirrored more, the flatter the look (C. Schlick, 1994, with 2 % at normal
    // incidence).
    real slant = real(1.0f) - unit(dot(direction, surface.normal) * real(-1.0f));
    real slant2 = slant * slant;
    real mirror = (real(0.02f) + real(0.98f) * slant2 * slant2 * slant) * (real(0.35f) + grain * real(0.5f));
    rvec3 mirrored = direction - surface.normal * (dot(direction, surface.normal) * real(2.0f));
    rvec3 from = point + surface.normal * real(2e-3f);
    rvec3 sheen = colour * light + mirrored_light(scene, from, mirrored) * mirror;
    mirrored_share = real(0.0f);
    if (!any_lane(surface.mirror > real(0.0f))) {
        return sheen;
    }
    // Puddles lie where the ground is low: in the dark of the larger blotches.
    real pool = blotches(u * real(0.9f) + real(31.0f), v * real(0.9f)) * real(0.75f) + grain * real(0.25f);
    real wet = unit((pool - surface.puddles * real(0.55f)) * real(9.0f) + real(1.0f) - surface.puddles);
    mirrored_share = surface.mirror * wet * (real(0.35f) + real(0.65f) * slant2 * slant);
    if (!any_lane(mirrored_share > real(0.0f))) {
        return sheen;
    }
    return mixed3(sheen, reflected_light(scene, from, mirrored), mirrored_share);
}

// The light that a ray brings back. `distance`: to what it met (m), far_away for the sky.
KERNEL rvec3 seen_light(IN(StageScene) scene, rvec3 origin, rvec3 direction, INOUT(real) distance,
                        INOUT(real) mirrored_share) {
    rvec3 sky = background_light(scene, direction);
    Surfel surface = nearest_surface(scene, origin, direction);
    distance = surface.distance;
    kmask met = surface.distance < real(far_away);
    if (!any_lane(met)) {
        return sky;
    }
    real t = min(surface.distance, real(10000.0f));
    rvec3 lit = surface_light(scene, origin + direction * t, direction, surface, mirrored_share);
    real clear = exp(real(-scene.mist) * t);
    // Mist takes on what is behind it, so that the ground ends without a line.
    uni lowest = scene.background == int(Background::sky) ? 0.02f : 0.0f;
    rvec3 haze = far_light(scene, rvec3(direction.x, max(direction.y, real(lowest)), direction.z));
    mirrored_share = sel(met, mirrored_share * clear, real(0.0f));
    return sel3(met, mixed3(haze, lit, clear), sky);
}
