// Every byte of what a simulation holds that an artist could see or a step could read.
#pragma once

#include "core/runtime/simulation.h"
#include "core/smoke/volume.h"

#include <QByteArray>

namespace ember::sample {

template <class Value>
void add_bytes(QByteArray& bytes, const Value* values, size_t count) {
    bytes.append(reinterpret_cast<const char*>(values), qsizetype(sizeof(Value) * count));
}

inline void add_smoke(QByteArray& bytes, const SmokeVolume& volume) {
    auto kept = volume.kept();
    // By which obstacle does not matter.
    std::replace_if(
        kept.solid.begin(), kept.solid.end(), [](uint8_t solid) { return solid != 0; }, 1);
    const auto add = [&](const auto& values) { add_bytes(bytes, values.data(), values.size()); };
    add(kept.density);
    add(kept.heat);
    for (const FloatCells& plane : kept.faces) {
        add(plane);
    }
    add(kept.solid);
    add(kept.active);
    add(kept.pressure.made);
    add(kept.pressure.more);
    add(kept.pressure.remains);
}

inline void add_events(QByteArray& bytes, const PieceEvents& events) {
    for (const auto* kind : {&events.broken, &events.apart, &events.hits, &events.rests, &events.cleared}) {
        for (const PieceEvent& event : *kind) {
            add_bytes(bytes, &event.place, 1);
            add_bytes(bytes, &event.velocity, 1);
            add_bytes(bytes, &event.strength, 1);
            add_bytes(bytes, &event.number, 1);
        }
    }
}

/// Of what elements with these ids hold.
inline QByteArray state_bytes(const Simulation& simulation, const std::vector<std::string>& ids) {
    QByteArray bytes;
    for (const std::string& id : ids) {
        if (const ParticlePool* pool = simulation.find_pool(id)) {
            for (const auto& block : pool->blocks()) {
                const auto add = [&](const auto& values) { add_bytes(bytes, values, size_t(block->count)); };
                add(block->x);
                add(block->y);
                add(block->z);
                add(block->vx);
                add(block->vy);
                add(block->vz);
                add(block->age);
                add(block->number);
                add(block->mark);
            }
            const uint64_t counts[] = {pool->live(), pool->born(), pool->refused(), pool->refused_lately()};
            add_bytes(bytes, counts, std::size(counts));
        }
        if (const SmokeVolume* volume = simulation.find_smoke(id)) {
            add_smoke(bytes, *volume);
        }
        for (const Debris::Moving& body : simulation.bodies(id)) {
            add_bytes(bytes, &body.place, 1);
            add_bytes(bytes, &body.velocity, 1);
            const uint64_t counts[] = {body.pieces, body.is_fixed, body.is_awake};
            add_bytes(bytes, counts, std::size(counts));
        }
    }
    Frame frame;
    simulation.write_frame(frame);
    const auto is_meant = [&](size_t element) {
        return std::find(ids.begin(), ids.end(), frame.now->elements[element].id) != ids.end();
    };
    for (const FrameDebris& debris : frame.debris) {
        for (const FramePiece& piece : debris.pieces) {
            if (is_meant(debris.element)) {
                add_bytes(bytes, &piece.placement, 1);
                add_bytes(bytes, &piece.size, 1);
            }
        }
    }
    for (const FrameSource& source : frame.sources) {
        if (is_meant(source.element)) {
            add_bytes(bytes, source.forms.data(), source.forms.size());
            const size_t trails = source.trails.size();
            add_bytes(bytes, &trails, 1);
        }
    }
    for (const auto& [id, events] : simulation.events_of_pieces()) {
        if (std::find(ids.begin(), ids.end(), id) != ids.end()) {
            add_events(bytes, events);
        }
    }
    return bytes;
}

inline std::vector<std::string> ids_of(const Effect& effect) {
    std::vector<std::string> ids;
    for (const Element& element : effect.elements) {
        ids.push_back(element.id);
    }
    return ids;
}

} // namespace ember::sample
