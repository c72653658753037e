#include "core/scene/field.h"

#include <algorithm>

namespace ember {

namespace {

// The rows that act, with the mass and hold of particles left out.
std::vector<ForceRow> rows_of(const PreparedEffect& prepared, const WindowGrids& windows,
                              const StepTime& time, const FieldOrder& order) {
    const auto id_of = [&](size_t element) { return prepared.effect->elements[element].id; };
    const StepPlacements placed = placements_in(prepared, time);
    std::vector<SourceProgram> programs = compiled(prepared, windows, time, placed);
    for (size_t i = 0; i < prepared.effect->elements.size(); ++i) {
        const Element& element = prepared.effect->elements[i];
        if (std::holds_alternative<Smoke>(element.body) && is_active(*prepared.effect, element)) {
            programs.push_back(compiled_for(prepared, windows, time, placed, i));
        }
    }
    for (const SourceProgram& program : programs) {
        std::vector<ForceRow> rows;
        for (const Influence<ForceRow>& force : program.forces) {
            if ((order.influence.empty() || id_of(force.element) == order.influence) &&
                force.row.kind != FORCE_FOUND) {
                rows.push_back(force.row);
                rows.back().is_held = 0;
            }
        }
        const bool is_source = order.source.empty() ? !rows.empty() : id_of(program.element) == order.source;
        if (is_source) {
            return rows;
        }
    }
    return {};
}

std::vector<Vec3> vectors_at(const std::vector<ForceRow>& rows, const std::vector<Vec3>& places, float step_s,
                             const BlockKernels& kernels) {
    std::vector<Vec3> vectors(places.size());
    ParticleBlock block;
    ForceSums sums;
    for (size_t first = 0; first < places.size(); first += block_size) {
        block.count = int(std::min<size_t>(block_size, places.size() - first));
        for (int i = 0; i < block.count; ++i) {
            const Vec3& place = places[first + size_t(i)];
            block.x[i] = place.x;
            block.y[i] = place.y;
            block.z[i] = place.z;
        }
        kernels.clear({}, block, sums);
        std::fill_n(sums.carry_x, block_size, 0.0f);
        std::fill_n(sums.carry_y, block_size, 0.0f);
        std::fill_n(sums.carry_z, block_size, 0.0f);
        for (const ForceRow& row : rows) {
            kernels.add_force(row, block, step_s, {}, sums);
        }
        for (int i = 0; i < block.count; ++i) {
            vectors[first + size_t(i)] = {sums.push_x[i] + sums.carry_x[i], sums.push_y[i] + sums.carry_y[i],
                                          sums.push_z[i] + sums.carry_z[i]};
        }
    }
    return vectors;
}

} // namespace

FieldReading read_field(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
                        const FieldOrder& order, const BlockKernels& kernels) {
    FieldReading reading;
    reading.order = order;
    const std::vector<ForceRow> rows = rows_of(prepared, windows, time, order);
    if (rows.empty()) {
        return reading;
    }
    const auto step_s = float(time.step_s);
    reading.vectors = vectors_at(rows, order.places, step_s, kernels);

    // Along the vectors, in even steps, all lines at once (the midpoint rule).
    const size_t stride = size_t(order.line_steps) + 1;
    reading.line_points.resize(order.seeds.size() * stride);
    std::vector<Vec3> heads = order.seeds;
    for (size_t step = 0; step < stride; ++step) {
        for (size_t line = 0; line < heads.size(); ++line) {
            reading.line_points[line * stride + step] = heads[line];
        }
        const auto moved = [&](const std::vector<Vec3>& vectors, float length) {
            std::vector<Vec3> places = heads;
            for (size_t line = 0; line < heads.size(); ++line) {
                places[line] += normalized(vectors[line], {}) * length;
            }
            return places;
        };
        const std::vector<Vec3> middles =
            moved(vectors_at(rows, heads, step_s, kernels), order.line_step * 0.5f);
        heads = moved(vectors_at(rows, middles, step_s, kernels), order.line_step);
    }
    return reading;
}

} // namespace ember
