#include "desktop/view/outline.h"

#include "core/scene/prepared.h"
#include "desktop/theme.h"
#include "desktop/view/force_lens.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

void draw_double(QPainter& painter, const std::vector<QLineF>& lines, const QPen& pale) {
    for (const QPen& pen : {QPen(theme::ground, pale.widthF() + 2.2), pale}) {
        painter.setPen(pen);
        painter.drawLines(lines.data(), int(lines.size()));
    }
}

void Outline::line(const Vec3& a, const Vec3& b) {
    const auto from = on_picture(a, camera_, size_), to = on_picture(b, camera_, size_);
    if (from && to) {
        drawn_.emplace_back(*from, *to);
    }
}

void Outline::ellipse(const Vec3& middle, const Vec3& a, const Vec3& b) {
    constexpr int parts = 48;
    Vec3 before = middle + a;
    for (int i = 1; i <= parts; ++i) {
        const float angle = 2 * std::numbers::pi_v<float> * float(i) / parts;
        const Vec3 next = middle + a * std::cos(angle) + b * std::sin(angle);
        line(before, next);
        before = next;
    }
}

void Outline::ball(const Placement& p, const Vec3& half) {
    ellipse(p.position, p.axes.x * half.x, p.axes.y * half.y);
    ellipse(p.position, p.axes.x * half.x, p.axes.z * half.z);
    ellipse(p.position, p.axes.y * half.y, p.axes.z * half.z);
}

void Outline::box(const Placement& p, const Vec3& half) {
    const auto corner = [&](int bits) {
        return p.position + p.axes.x * ((bits & 1) != 0 ? half.x : -half.x) +
               p.axes.y * ((bits & 2) != 0 ? half.y : -half.y) +
               p.axes.z * ((bits & 4) != 0 ? half.z : -half.z);
    };
    for (int bits = 0; bits < 8; ++bits) {
        for (int axis = 1; axis < 8; axis *= 2) {
            if ((bits & axis) == 0) {
                line(corner(bits), corner(bits | axis));
            }
        }
    }
}

void Outline::birth(const Emitter& emitter, const Placement& p) {
    const Vec3 half = emitter.size * 0.5f;
    const Vec3 x = p.axes.x * half.x, y = p.axes.y * half.y, z = p.axes.z * half.z;
    switch (emitter.shape) {
    case BirthShape::line:
        return line(p.position - x, p.position + x);
    case BirthShape::disc:
        return ellipse(p.position, x, z);
    case BirthShape::ring:
        return ellipse(p.position, x, p.axes.z * half.x);
    case BirthShape::rectangle:
        return box(p, {half.x, 0, half.z});
    case BirthShape::box:
        return box(p, half);
    case BirthShape::ball:
        return ball(p, half);
    case BirthShape::cylinder:
        ellipse(p.position - y, x, p.axes.z * half.x);
        return ellipse(p.position + y, x, p.axes.z * half.x);
    case BirthShape::cone:
        ellipse(p.position + y, x, p.axes.z * half.x);
        line(p.position - y, p.position + y + x);
        return line(p.position - y, p.position + y - x);
    default:
        return;
    }
}

void Outline::path(const PathShape& path, const Placement& p) {
    const PathTable table = sampled(path);
    const int parts = std::min(table.count() - 1, 192);
    for (int i = 0; i < parts; ++i) {
        const auto place = [&](int k) {
            return p.position + p.axes.out(table.at(float(k) / float(parts)).position);
        };
        line(place(i), place(i + 1));
    }
}

void Outline::reach(const Reach& reach, const Placement& p, float wider) {
    const Vec3 more = {wider, wider, wider};
    switch (reach.reach) {
    case ReachShape::ball:
        return ball(p, Vec3{reach.reach_size.x, reach.reach_size.x, reach.reach_size.x} * 0.5f + more);
    case ReachShape::box:
        return box(p, reach.reach_size * 0.5f + more);
    case ReachShape::slab:
        // Endless; a piece of it stands for the whole.
        return box(p, {camera_.distance * 0.5f, reach.reach_size.y * 0.5f + wider, camera_.distance * 0.5f});
    case ReachShape::everywhere:
        return;
    }
}

} // namespace ember
