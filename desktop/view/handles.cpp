#include "desktop/view/handles.h"

#include "core/effect/edit.h"
#include "core/scene/prepared.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"
#include "desktop/view/force_lens.h"
#include "desktop/view/outline.h"

#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

constexpr double reach_pixels = 9;
constexpr float arrow_pixels = 46; // of moving handles, whatever the distance
constexpr float aim_pixels = 72;   // beyond those, which may point the same way

// The length that so many pixels have at a place.
float metres_of(float pixels, const Vec3& place, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const float depth = std::max(dot(place - view.eye, view.forward), 0.05f);
    return pixels * depth * 2 / (view.focal * float(std::max(size.height(), 1)));
}

const Parameter* applying(const Holder& holder, std::string_view key) {
    const Parameter* parameter = holder.find(key);
    return parameter != nullptr && does_apply(*parameter, holder.object) ? parameter : nullptr;
}

// Where something is, and the axes that its offset is given in.
struct Stand {
    Placement own;
    Axes carrier;
};

Placement carrier_of(const Effect& effect, const std::string& rides_on,
                     const std::vector<Placement>& placements) {
    for (size_t i = 0; i < effect.elements.size() && i < placements.size(); ++i) {
        if (effect.elements[i].id == rides_on) {
            return placements[i];
        }
    }
    return {};
}

std::optional<Stand> stand_of(const Effect& effect, const std::string& id,
                              const std::vector<Placement>& placements) {
    for (size_t i = 0; i < effect.elements.size() && i < placements.size(); ++i) {
        const Place* place = place_of(effect.elements[i].body);
        const bool has_place =
            place != nullptr && applying(holder_of(effect.elements[i]), "position") != nullptr;
        if (effect.elements[i].id == id && has_place) {
            const Placement carrier = carrier_of(effect, place->rides_on, placements);
            // A mover is held by where its way stands, not by where it has got to.
            const bool moves = family_of(effect.elements[i].body) == Family::mover;
            return Stand{moves ? carrier.carrying(place->position, place->turn) : placements[i],
                         carrier.axes};
        }
    }
    return std::nullopt;
}

std::optional<Stand> reach_stand_of(const Effect& effect, const std::string& id,
                                    const std::vector<Placement>& placements) {
    const Element* element = find_element(effect, id);
    const Reach* reach = element != nullptr ? reach_of(element->body) : nullptr;
    if (reach == nullptr || reach->reach == ReachShape::everywhere) {
        return std::nullopt;
    }
    const Placement carrier = carrier_of(effect, reach->reach_rides_on, placements);
    return Stand{carrier.carrying(reach->reach_position, reach->reach_turn), carrier.axes};
}

// What an element's path stands in, if it has one: a mover's own place goes along it.
std::optional<Placement> path_stand_of(const Effect& effect, const Element& element,
                                       const std::vector<Placement>& placements) {
    const Place* place = place_of(element.body);
    if (place == nullptr || applying(holder_of(element), "path") == nullptr) {
        return std::nullopt;
    }
    return carrier_of(effect, place->rides_on, placements).carrying(place->position, place->turn);
}

void add_points(std::vector<Handle>& handles, const Points& points, const Placement& stand) {
    for (size_t i = 0; i < points.size(); ++i) {
        const Vec3 place = stand.position + stand.axes.out(points[i]);
        handles.push_back({Handle::Kind::move, "points", 0, place, {}, place, stand.axes, 1, int(i)});
    }
}

void add_moving(std::vector<Handle>& handles, const Stand& stand, const char* key) {
    handles.push_back(
        {Handle::Kind::move, key, 0, stand.own.position, {}, stand.own.position, stand.carrier, 1});
    for (int part = 0; part < 3; ++part) {
        const Vec3 axis = part == 0 ? stand.carrier.x : part == 1 ? stand.carrier.y : stand.carrier.z;
        handles.push_back(
            {Handle::Kind::along, key, part, stand.own.position, axis, stand.own.position, stand.carrier, 1});
    }
}

void add_sizes(std::vector<Handle>& handles, const Holder& holder, const Stand& stand, const char* key,
               int parts) {
    const Parameter* parameter = applying(holder, key);
    if (parameter == nullptr || parameter->kind != ParameterKind::vector) {
        return;
    }
    const auto size = std::get<Vec3>(parameter->get(holder.object));
    const Axes& axes = stand.own.axes;
    const Vec3 ends[] = {axes.x * (size.x / 2), axes.y * (size.y / 2), axes.z * (size.z / 2)};
    const Vec3 ways[] = {axes.x, axes.y, axes.z};
    for (int part = 0; part < 3; ++part) {
        if ((parts & 1 << part) != 0) {
            handles.push_back({Handle::Kind::along, key, part, stand.own.position + ends[part], ways[part],
                               stand.own.position, axes, 2});
        }
    }
}

// Which parts of its extent a birth shape uses, as bits.
int used_parts(BirthShape shape) {
    switch (shape) {
    case BirthShape::line:
    case BirthShape::ring:
        return 1;
    case BirthShape::disc:
    case BirthShape::rectangle:
        return 1 | 4;
    case BirthShape::cylinder:
    case BirthShape::cone:
        return 1 | 2;
    default:
        return 7;
    }
}

Vec3 with(Vec3 v, int part, float number) {
    (part == 0 ? v.x : part == 1 ? v.y : v.z) = number;
    return v;
}
float part_of(const Vec3& v, int part) {
    return part == 0 ? v.x : part == 1 ? v.y : v.z;
}

float fitted(const Parameter& parameter, float number, bool snaps) {
    const float step = number > 20 || number < -20 ? 1.0f : 0.1f;
    number = snaps ? std::round(number / step) * step : std::round(number * 1000) / 1000;
    return std::clamp(number, float(parameter.hard_low), float(parameter.hard_high));
}

} // namespace

Vec3 knob_of(const Handle& handle, const Camera& camera, QSize size) {
    const bool is_aim = handle.kind == Handle::Kind::aim;
    const bool is_arrow = handle.kind == Handle::Kind::along && length(handle.place - handle.root) < 1e-6f;
    const float off = is_aim ? aim_pixels : is_arrow ? arrow_pixels : 0;
    return handle.place + handle.axis * metres_of(off, handle.place, camera, size);
}

std::vector<Handle> handles_of(const Effect& effect, const std::string& id,
                               const std::vector<Placement>& placements) {
    std::vector<Handle> handles;
    const Element* element = find_element(effect, id);
    if (element == nullptr) {
        return handles;
    }
    const Holder holder = holder_of(*element);
    const auto* emitter = std::get_if<Emitter>(&element->body);
    if (const auto stand = stand_of(effect, id, placements);
        stand && (emitter == nullptr || emitter->parent.empty())) {
        add_moving(handles, *stand, "position");
        add_sizes(handles, holder, *stand, "size", emitter != nullptr ? used_parts(emitter->shape) : 7);
        if (const Parameter* radius = applying(holder, "radius");
            radius != nullptr && radius->kind == ParameterKind::number) {
            const auto r = std::get<float>(radius->get(holder.object));
            handles.push_back({Handle::Kind::along, "radius", 0, stand->own.position + stand->own.axes.x * r,
                               stand->own.axes.x, stand->own.position, stand->own.axes, 1});
        }
        if (applying(holder, "direction") != nullptr) {
            const Vec3 aim = normalized(std::get<Vec3>(holder.find("direction")->get(holder.object)));
            handles.push_back({Handle::Kind::aim, "direction", 0, stand->own.position,
                               stand->carrier.out(aim), stand->own.position, stand->carrier, 1});
        }
    }
    const auto path = path_stand_of(effect, *element, placements);
    if (path && applying(holder, "points") != nullptr) {
        add_points(handles, path_of(element->body)->points, *path);
    }
    if (const auto stand = reach_stand_of(effect, id, placements)) {
        const Reach& reach = *reach_of(element->body);
        add_moving(handles, *stand, "reach_position");
        const int parts = reach.reach == ReachShape::ball ? 1 : reach.reach == ReachShape::slab ? 2 : 7;
        add_sizes(handles, holder, *stand, "reach_size", parts);
        // The fade is taken at its far end, on the side of the extent's last handle.
        const Handle edge = handles.back();
        handles.push_back({Handle::Kind::along, "fade_distance", 0,
                           edge.place + edge.axis * reach.fade_distance, edge.axis, edge.place, edge.axes,
                           1});
    }
    return handles;
}

Effect dragged(const Effect& effect, const std::string& id, const Handle& handle, QPointF from, QPointF to,
               bool snaps, const Camera& camera, QSize size) {
    const Holder holder = *find_holder(effect, id);
    const Parameter& parameter = *holder.find(handle.key);
    const Value value = parameter.get(holder.object);
    const QPointF way = to - from;
    const ViewAxes view = axes_of(camera);
    const Vec3 knob = knob_of(handle, camera, size);
    const float per_pixel = metres_of(1, knob, camera, size);
    const Vec3 across = view.right * (float(way.x()) * per_pixel) - view.up * (float(way.y()) * per_pixel);

    if (handle.kind == Handle::Kind::along) {
        // As far along the axis as the pointer went along its line on the picture.
        const auto start = on_picture(handle.place, camera, size);
        const auto ahead = on_picture(handle.place + handle.axis * (per_pixel * 20), camera, size);
        const QPointF line = start && ahead ? (*ahead - *start) / double(per_pixel * 20) : QPointF();
        const double square = line.x() * line.x() + line.y() * line.y();
        if (square < 1) {
            return effect; // seen from its end
        }
        const auto metres = float((way.x() * line.x() + way.y() * line.y()) / square);
        if (const auto* vector = std::get_if<Vec3>(&value)) {
            const float number =
                fitted(parameter, part_of(*vector, handle.part) + metres * handle.factor, snaps);
            return with_value(effect, id, parameter, with(*vector, handle.part, number));
        }
        return with_value(effect, id, parameter,
                          fitted(parameter, std::get<float>(value) + metres * handle.factor, snaps));
    }
    const auto all_fitted = [&](const Vec3& v) {
        return Vec3{fitted(parameter, v.x, snaps), fitted(parameter, v.y, snaps),
                    fitted(parameter, v.z, snaps)};
    };
    if (handle.point >= 0) {
        Points points = std::get<Points>(value);
        Vec3& point = points[size_t(handle.point)];
        point = all_fitted(point + handle.axes.in(across));
        return with_value(effect, id, parameter, points);
    }
    if (handle.kind == Handle::Kind::aim) {
        return with_value(effect, id, parameter,
                          all_fitted(handle.axes.in(normalized(knob + across - handle.place, handle.axis))));
    }
    return with_value(effect, id, parameter, all_fitted(std::get<Vec3>(value) + handle.axes.in(across)));
}

Effect with_point_after(const Effect& effect, const std::string& id, const Handle& point) {
    const PathShape& path = *path_of(find_element(effect, id)->body);
    Points points = path.points;
    const auto at = size_t(point.point);
    const bool is_last = at + 1 == points.size();
    // Behind the last one it goes on as far as it came; a closed path comes back to the first.
    const Vec3 next = !is_last      ? points[at + 1]
                      : path.closed ? points.front()
                                    : points[at] * 3 - points[at - 1] * 2;
    points.insert(points.begin() + std::ptrdiff_t(at) + 1, (points[at] + next) * 0.5f);
    const Parameter& parameter = *find_holder(effect, id)->find(point.key);
    return refusal_of(parameter, points) ? effect : with_value(effect, id, parameter, points);
}

Effect without_point(const Effect& effect, const std::string& id, const Handle& point) {
    Points points = path_of(find_element(effect, id)->body)->points;
    points.erase(points.begin() + point.point);
    const Parameter& parameter = *find_holder(effect, id)->find(point.key);
    return refusal_of(parameter, points) ? effect : with_value(effect, id, parameter, points);
}

QString figure_of(const Effect& effect, const std::string& id, const Handle& handle) {
    const Holder holder = *find_holder(effect, id);
    const Parameter& parameter = *holder.find(handle.key);
    const Value value = parameter.get(holder.object);
    const auto written = [](const Vec3& v) {
        return QStringLiteral("%1 %2 %3").arg(double(v.x)).arg(double(v.y)).arg(double(v.z));
    };
    QString numbers;
    if (const auto* vector = std::get_if<Vec3>(&value)) {
        numbers = written(*vector);
    } else if (handle.point >= 0) {
        numbers = QStringLiteral("%1: ").arg(handle.point + 1) +
                  written(std::get<Points>(value)[size_t(handle.point)]);
    } else {
        numbers = QString::number(double(std::get<float>(value)));
    }
    return qtext(parameter.label) + " " + numbers + " " + qtext(parameter.unit);
}

int handle_at(const std::vector<Handle>& handles, QPointF pixel, const Camera& camera, QSize size) {
    int found = -1;
    double nearest = reach_pixels;
    for (size_t i = 0; i < handles.size(); ++i) {
        const auto place = on_picture(knob_of(handles[i], camera, size), camera, size);
        const double distance =
            place ? std::hypot(place->x() - pixel.x(), place->y() - pixel.y()) : nearest + 1;
        if (distance < nearest) {
            nearest = distance;
            found = int(i);
        }
    }
    return found;
}

namespace {

// While breaking is worked on, where the other zones and pins are: dotted, in a quiet colour.
void paint_zones(QPainter& painter, const Effect& effect, const std::string& id,
                 const std::vector<Placement>& placements, const Camera& camera, QSize size) {
    const Element& selected = *find_element(effect, id);
    const bool breaks =
        std::holds_alternative<Breakable>(selected.body) || family_of(selected.body) == Family::breaking;
    for (const Element& each : effect.elements) {
        const Reach* reach = reach_of(each.body);
        const auto stand = reach_stand_of(effect, each.id, placements);
        if (breaks && stand && each.id != id && family_of(each.body) == Family::breaking &&
            is_active(effect, each)) {
            Outline outline(camera, size);
            outline.reach(*reach, stand->own, 0);
            painter.setPen(QPen(theme::quiet, 1, Qt::DotLine));
            painter.drawLines(outline.drawn().data(), int(outline.drawn().size()));
        }
    }
}

// Each kind has a shape of its own: places are square, sizes round, reaches three-sided, aims pointed.
QPolygonF knob_shape(const Handle& handle, QPointF at, double r) {
    if (handle.kind == Handle::Kind::aim) {
        return QPolygonF{at + QPointF(0, -r - 1), at + QPointF(r + 1, 0), at + QPointF(0, r + 1),
                         at + QPointF(-r - 1, 0)};
    }
    if (handle.key.ends_with("position") || handle.point >= 0) {
        return QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r);
    }
    if (handle.key.starts_with("reach") || handle.key.starts_with("fade")) {
        return QPolygonF{at + QPointF(0, -r - 1.5), at + QPointF(r + 1, r), at + QPointF(-r - 1, r)};
    }
    constexpr int corners = 16; // round enough at a few pixels
    QPolygonF round;
    for (int i = 0; i < corners; ++i) {
        const double angle = 2 * std::numbers::pi * i / corners;
        round << at + QPointF(std::cos(angle), std::sin(angle)) * r;
    }
    return round;
}

} // namespace

void paint_handles(QPainter& painter, const Effect& effect, const std::string& id,
                   const std::vector<Placement>& placements, int held, const Camera& camera, QSize size) {
    const Element* element = find_element(effect, id);
    const std::vector<Handle> handles = handles_of(effect, id, placements);
    if (element == nullptr || handles.empty()) {
        return;
    }
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(Qt::NoBrush);
    Outline outline(camera, size);
    const auto* emitter = std::get_if<Emitter>(&element->body);
    const auto stand = stand_of(effect, id, placements);
    if (emitter != nullptr && emitter->parent.empty() && stand) {
        outline.birth(*emitter, stand->own);
    }
    if (const auto* breakable = std::get_if<Breakable>(&element->body);
        breakable != nullptr && breakable->shape == BreakShape::block && stand) {
        outline.box(stand->own, breakable->size * 0.5f);
    }
    if (const auto path = path_stand_of(effect, *element, placements)) {
        outline.path(*path_of(element->body), *path);
    }
    paint_zones(painter, effect, id, placements, camera, size);
    if (const auto reach_stand = reach_stand_of(effect, id, placements)) {
        const Reach& reach = *reach_of(element->body);
        Outline faded(camera, size);
        faded.reach(reach, reach_stand->own, reach.fade_distance);
        draw_double(painter, faded.drawn(), QPen(theme::quiet, 1, Qt::DashLine));
        outline.reach(reach, reach_stand->own, 0);
    }
    draw_double(painter, outline.drawn(), QPen(theme::text, 1.2));
    for (size_t i = 0; i < handles.size(); ++i) {
        const Handle& handle = handles[i];
        const auto root = on_picture(handle.root, camera, size);
        const auto knob = on_picture(knob_of(handle, camera, size), camera, size);
        if (!root || !knob) {
            continue;
        }
        const bool is_held = int(i) == held;
        const QPen pale(theme::text, is_held ? 2 : 1.3);
        draw_double(painter, {{*root, *knob}}, pale);
        const QPolygonF shape = knob_shape(handle, *knob, is_held ? 5 : 4);
        painter.setBrush(is_held ? theme::text : theme::ground);
        for (const QPen& pen : {QPen(theme::ground, pale.widthF() + 2.2), pale}) {
            painter.setPen(pen);
            painter.drawPolygon(shape);
        }
        painter.setBrush(Qt::NoBrush);
    }
    if (held >= 0 && size_t(held) < handles.size()) {
        const Handle& handle = handles[size_t(held)];
        if (const auto knob = on_picture(knob_of(handle, camera, size), camera, size)) {
            painter.setFont(theme::figure_font(8.5));
            const QString text = figure_of(effect, id, handle);
            const int width = painter.fontMetrics().horizontalAdvance(text) + 12;
            const QRectF box(std::clamp(knob->x() + 12, 4.0, std::max(size.width() - width - 4.0, 4.0)),
                             knob->y() - 24, width, 18);
            QColor back = theme::ground;
            back.setAlpha(200);
            painter.fillRect(box, back);
            painter.setPen(theme::text);
            painter.drawText(box, Qt::AlignCenter, text);
        }
    }
}

} // namespace ember
