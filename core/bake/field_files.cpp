// What forces do, as grids of vectors.
#include "core/bake/bake.h"
#include "core/bake/vdb.h"
#include "core/base/file.h"
#include "core/effect/parameter.h"

#include <algorithm>
#include <cmath>

namespace ember {

float FieldBox::cell() const {
    const Vec3 size = high - low;
    return std::max({size.x, size.y, size.z, 1e-3f}) / float(std::max(cells - 1, 1));
}

std::array<int, 3> FieldBox::count() const {
    const auto along = [&](float length) { return std::max(int(std::lround(length / cell())) + 1, 1); };
    return {along(high.x - low.x), along(high.y - low.y), along(high.z - low.z)};
}

std::vector<Vec3> FieldBox::places() const {
    const auto [nx, ny, nz] = count();
    std::vector<Vec3> places;
    places.reserve(size_t(nx) * size_t(ny) * size_t(nz));
    for (int z = 0; z < nz; ++z) {
        for (int y = 0; y < ny; ++y) {
            for (int x = 0; x < nx; ++x) {
                places.push_back(low + Vec3{float(x), float(y), float(z)} * cell());
            }
        }
    }
    return places;
}

FieldBox box_in_view(const Stage& stage) {
    const float half = stage.camera_distance / 2;
    const Vec3 reach = {half, half, half};
    return {stage.camera_target - reach, stage.camera_target + reach};
}

namespace {

class FieldFiles : public BakeWriter {
  public:
    explicit FieldFiles(const BakeOrder& order)
        : order_(order), box_(order.field_box.value_or(box_in_view(effect().stage))) {}

    BakedFiles files() const override {
        const auto numbers = [](const Vec3& v) {
            return text_of(v.x) + " " + text_of(v.y) + " " + text_of(v.z);
        };
        return {
            "fields",
            pattern_,
            {{"format",
              "OpenVDB, half floats: for each force a grid with its id, and for each source \"sum on \" and "
              "its id; m/s^2 on a particle at rest with a mass of 1"},
             {"box", numbers(box_.low) + " to " + numbers(box_.high) + " m"},
             {"cells", std::to_string(box_.cells)}}};
    }
    std::optional<std::string> lack() const override {
        return wanted().empty() ? std::optional<std::string>("forces") : std::nullopt;
    }
    bool has(int frame) const override {
        std::error_code error;
        return std::filesystem::is_regular_file(file_of_frame(order_, pattern_, frame), error);
    }
    std::optional<Problem> add(const Simulation& simulation, const Frame& frame, int number) override {
        std::vector<BakedField> fields;
        FieldOrder what;
        what.places = box_.places();
        for (const Wanted& each : wanted()) {
            what.influence = each.influence;
            what.source = each.source;
            std::vector<Vec3> vectors = simulation.read_field(what).vectors;
            vectors.resize(what.places.size()); // what acts on nobody now does nothing
            fields.push_back({each.grid, std::move(vectors)});
        }
        const std::string bytes = field_bytes(box_, fields, frame.time_s);
        return write_file(file_of_frame(order_, pattern_, number), [&](std::ostream& stream) {
            stream.write(bytes.data(), std::streamsize(bytes.size()));
        });
    }
    uint64_t bytes_of_frame() const override {
        constexpr uint64_t bytes_a_vector = 6;
        const auto [x, y, z] = box_.count();
        return uint64_t(x) * uint64_t(y) * uint64_t(z) * bytes_a_vector * wanted().size();
    }

  private:
    const Effect& effect() const { return order_.take ? *order_.take->effect_at(0) : *order_.effect; }

    struct Wanted {
        std::string grid, influence, source; // see FieldOrder
    };
    std::vector<Wanted> wanted() const {
        std::vector<Wanted> all;
        const auto is_force = [](const Element& each) { return family_of(each.body) == Family::force; };
        const std::vector<Element>& elements = effect().elements;
        for (const Element& each : elements) {
            if (is_force(each) && !each.links.empty()) {
                all.push_back({each.id, each.id, ""});
            }
        }
        for (const Element& source : elements) {
            const bool is_moved = std::any_of(elements.begin(), elements.end(), [&](const Element& force) {
                return is_force(force) && find_link(force, source.id) != nullptr;
            });
            if (is_moved && !std::holds_alternative<Breakable>(source.body) && order_.has(source.id)) {
                all.push_back({"sum on " + source.id, "", source.id});
            }
        }
        return all;
    }

    BakeOrder order_;
    FieldBox box_;
    std::string pattern_ = "fields/%05d.vdb";
};

} // namespace

std::unique_ptr<BakeWriter> field_files(const BakeOrder& order) {
    return std::make_unique<FieldFiles>(order);
}

} // namespace ember
