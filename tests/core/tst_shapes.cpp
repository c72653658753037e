// Birth shapes: uniform by length, area or volume, with the right normals and tangents.
#include "sample_effects.h"
#include "sample_files.h"

#include <QTemporaryDir>
#include <QtTest>

#include <array>
#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr int births = 40000;

Emitter burst(BirthShape shape, BirthFill fill) {
    Emitter emitter;
    emitter.shape = shape;
    emitter.fill = fill;
    emitter.rate = 0;
    emitter.burst_count = births;
    emitter.capacity = births;
    emitter.size = {2, 2, 2};
    emitter.thickness = 0.8f;
    emitter.aim = Aim::normal;
    emitter.spread = 0;
    emitter.speed = {1e-6f, 1e-6f}; // next to standing still, but with a direction
    emitter.lifetime = {1000, 1000};
    emitter.look = "soft-dots";
    return emitter;
}

std::vector<ParticleState> born(const Emitter& emitter, const Assets& assets = {}) {
    Simulation simulation;
    simulation.set_effect(shared(effect_of(emitter)), assets);
    simulation.step();
    return particles(simulation);
}

// 99.9 % point of chi-square for n - 1 degrees of freedom (Wilson and Hilferty, 1931).
double chi_limit(size_t bins) {
    const double k = double(bins - 1);
    const double part = 1 - 2 / (9 * k) + 3.09 * std::sqrt(2 / (9 * k));
    return k * part * part * part;
}

double chi_square(const std::vector<int>& bins) {
    double sum = 0, count = 0;
    for (const int bin : bins) {
        count += bin;
    }
    const double expected = count / double(bins.size());
    for (const int bin : bins) {
        sum += (bin - expected) * (bin - expected) / expected;
    }
    return sum;
}

// Counts shares 0..1 in ten bins.
class Bins {
  public:
    void add(double share) {
        is_inside_ = is_inside_ && share > -1e-3 && share < 1.001;
        ++bins_[size_t(std::clamp(int(share * 10), 0, 9))];
    }
    bool is_even() const { return is_inside_ && chi_square(bins_) < chi_limit(bins_.size()); }
    QString text() const { return QStringLiteral("chi-square %1").arg(chi_square(bins_)); }

  private:
    bool is_inside_ = true;
    std::vector<int> bins_ = std::vector<int>(10);
};

double turn_share(const Vec3& p) {
    return std::atan2(double(p.z), double(p.x)) / (2 * std::numbers::pi) + 0.5;
}

double ring_distance(const Vec3& p) {
    const double out = std::hypot(double(p.x), double(p.z)) - 1;
    return std::hypot(out, double(p.y));
}

} // namespace

class TestShapes : public QObject {
    Q_OBJECT

    static bool all(const std::vector<ParticleState>& born, auto holds) {
        return std::all_of(born.begin(), born.end(), holds);
    }

  private slots:
    void discs_and_rectangles_are_even_inside_and_on_their_edge() {
        Bins rings, turns, edge, rows, columns, round;
        for (const auto& p : born(burst(BirthShape::disc, BirthFill::inside))) {
            rings.add(double(dot(p.position, p.position)));
            turns.add(turn_share(p.position));
        }
        const auto rim = born(burst(BirthShape::disc, BirthFill::surface));
        for (const auto& p : rim) {
            edge.add(turn_share(p.position));
        }
        QVERIFY(all(rim, [](const auto& p) { return std::abs(length(p.position) - 1) < 1e-4f; }));
        for (const auto& p : born(burst(BirthShape::rectangle, BirthFill::inside))) {
            rows.add(double(p.position.x + 1) / 2);
            columns.add(double(p.position.z + 1) / 2);
        }
        Emitter wide = burst(BirthShape::rectangle, BirthFill::surface);
        wide.size = {6, 0, 2};
        const auto frame = born(wide);
        QVERIFY(all(frame, [](const auto& p) {
            return std::abs(std::max(std::abs(p.position.x) / 3, std::abs(p.position.z)) - 1) < 1e-4f;
        }));
        // Sides of 6 m have three times the births of sides of 2 m.
        int on_long = 0;
        for (const auto& p : frame) {
            on_long += std::abs(std::abs(p.position.z) - 1) < 1e-4f ? 1 : 0;
        }
        QVERIFY(std::abs(on_long - births * 3 / 4) < 4 * std::sqrt(births * 3.0 / 16));
        for (const Bins& bins : {rings, turns, edge, rows, columns}) {
            QVERIFY2(bins.is_even(), qPrintable(bins.text()));
        }
    }

    void ring_is_even_by_the_volume_and_the_area_of_its_tube() {
        for (const auto fill : {BirthFill::inside, BirthFill::surface}) {
            const auto all_born = born(burst(BirthShape::ring, fill));
            Bins along, across;
            int outer = 0;
            for (const auto& p : all_born) {
                along.add(turn_share(p.position));
                const double distance = ring_distance(p.position);
                if (fill == BirthFill::inside) {
                    across.add(distance * distance / 0.16);
                } else {
                    QVERIFY(std::abs(distance - 0.4) < 1e-4);
                }
                outer += std::hypot(p.position.x, p.position.z) > 1 ? 1 : 0;
            }
            QVERIFY2(along.is_even(), qPrintable(along.text()));
            if (fill == BirthFill::inside) {
                QVERIFY2(across.is_even(), qPrintable(across.text()));
            }
            // Outer half: 1/2 + mean of |cos| times distance from the middle over pi, by volume 4 r / (3 pi),
            // by area 2 r / pi, both over 2.
            const double r = 0.4, pi = std::numbers::pi;
            const double share =
                fill == BirthFill::inside ? 0.5 + 4 * r / (3 * pi) / 1 * 0.5 : 0.5 + 2 * r / pi * 0.5;
            QVERIFY2(std::abs(outer - births * share) < 4 * std::sqrt(births / 4.0),
                     qPrintable(QStringLiteral("%1 of %2").arg(outer).arg(births * share)));
        }
    }

    void boxes_balls_cylinders_and_cones_are_even_inside() {
        Bins x, y, z, shells, caps, cylinder_rings, heights, cone_layers, cone_rings;
        for (const auto& p : born(burst(BirthShape::box, BirthFill::inside))) {
            x.add(double(p.position.x + 1) / 2);
            y.add(double(p.position.y + 1) / 2);
            z.add(double(p.position.z + 1) / 2);
        }
        for (const auto& p : born(burst(BirthShape::ball, BirthFill::inside))) {
            const double r = double(length(p.position));
            shells.add(r * r * r);
            caps.add((double(p.position.y) / r + 1) / 2);
        }
        for (const auto& p : born(burst(BirthShape::cylinder, BirthFill::inside))) {
            cylinder_rings.add(double(p.position.x * p.position.x + p.position.z * p.position.z));
            heights.add(double(p.position.y + 1) / 2);
        }
        for (const auto& p : born(burst(BirthShape::cone, BirthFill::inside))) {
            const double height = double(p.position.y + 1) / 2; // of the tip 0
            const double radius = std::hypot(double(p.position.x), double(p.position.z));
            cone_layers.add(height * height * height);
            cone_rings.add(radius * radius / (height * height));
        }
        for (const Bins& bins : {x, y, z, shells, caps, cylinder_rings, heights, cone_layers, cone_rings}) {
            QVERIFY2(bins.is_even(), qPrintable(bins.text()));
        }
    }

    void surfaces_are_even_by_area_with_normals_that_point_outwards() {
        Emitter box = burst(BirthShape::box, BirthFill::surface);
        box.size = {2, 1, 4};
        int faces[3] = {};
        for (const auto& p : born(box)) {
            const Vec3 q = {p.position.x, p.position.y * 2, p.position.z / 2};
            const float most = std::max({std::abs(q.x), std::abs(q.y), std::abs(q.z)});
            QVERIFY(std::abs(most - 1) < 1e-3f);
            const int face = std::abs(q.x) == most ? 0 : std::abs(q.y) == most ? 1 : 2;
            ++faces[face];
            const Vec3 normal = normalized(p.velocity);
            QVERIFY(std::abs((face == 0   ? normal.x * q.x
                              : face == 1 ? normal.y * q.y
                                          : normal.z * q.z) -
                             1) < 1e-3f);
        }
        // Areas 4, 8 and 2 of 14.
        QVERIFY(std::abs(faces[0] - births * 4 / 14) < 400);
        QVERIFY(std::abs(faces[1] - births * 8 / 14) < 400);
        QVERIFY(std::abs(faces[2] - births * 2 / 14) < 400);

        Bins caps, heights, cone;
        for (const auto& p : born(burst(BirthShape::ball, BirthFill::surface))) {
            QVERIFY(std::abs(length(p.position) - 1) < 1e-4f);
            QVERIFY(dot(normalized(p.velocity), p.position) > 0.999f);
            caps.add(double(p.position.y + 1) / 2);
        }
        for (const auto& p : born(burst(BirthShape::cylinder, BirthFill::surface))) {
            QVERIFY(std::abs(std::hypot(p.position.x, p.position.z) - 1) < 1e-4f);
            QVERIFY(dot(normalized(p.velocity), {p.position.x, 0, p.position.z}) > 0.999f);
            heights.add(double(p.position.y + 1) / 2);
        }
        for (const auto& p : born(burst(BirthShape::cone, BirthFill::surface))) {
            const double height = double(p.position.y + 1) / 2;
            QVERIFY(std::abs(std::hypot(double(p.position.x), double(p.position.z)) - height) < 1e-3);
            cone.add(height * height);
            // Slope 1 over 2: the normal leans down by as much.
            const Vec3 normal = normalized(p.velocity);
            QVERIFY(std::abs(normal.y + 1 / std::sqrt(5.0f)) < 1e-3f);
        }
        for (const Bins& bins : {caps, heights, cone}) {
            QVERIFY2(bins.is_even(), qPrintable(bins.text()));
        }
    }

    void ellipsoids_are_even_by_area() {
        Emitter flat = burst(BirthShape::ball, BirthFill::surface);
        flat.size = {2, 4, 2};
        // Area of a prolate spheroid's zone between heights, by numerical integration: bins of equal area.
        const auto zone = [](double y) {
            double area = 0;
            for (int i = 0; i < 4000; ++i) {
                const double at = -2 + (y + 2) * (i + 0.5) / 4000;
                const double r = std::sqrt(1 - at * at / 4), slope = -at / 4 / r;
                area += r * std::sqrt(1 + slope * slope) * (y + 2) / 4000;
            }
            return area;
        };
        std::array<double, 41> table;
        for (size_t i = 0; i < table.size(); ++i) {
            table[i] = zone(-1.999 + 3.998 * double(i) / 40) / zone(1.999);
        }
        Bins zones;
        for (const auto& p : born(flat)) {
            const double place = (double(p.position.y) + 1.999) / 3.998 * 40;
            const auto i = size_t(std::clamp(place, 0.0, 39.0));
            zones.add(std::clamp(table[i] + (table[i + 1] - table[i]) * (place - double(i)), 0.0, 1.0));
        }
        QVERIFY2(zones.is_even(), qPrintable(zones.text()));
    }

    void path_is_even_along_its_length_and_gives_tangents() {
        Emitter emitter = burst(BirthShape::path, BirthFill::surface);
        emitter.turns = 2;
        emitter.height = 3;
        emitter.radius = emitter.end_radius = 1;
        emitter.thickness = 0.02f;
        emitter.aim = Aim::tangent;
        Bins heights;
        for (const auto& p : born(emitter)) {
            const double angle = double(p.position.y) / 3 * 4 * std::numbers::pi;
            heights.add(std::clamp(double(p.position.y) / 3, 0.0, 1.0));
            const Vec3 tangent = normalized(p.velocity);
            // The rise over a turn of 2 pi m is 1.5 m.
            QVERIFY(std::abs(tangent.y - 1.5f / std::hypot(1.5f, 6.2832f)) < 0.02f);
            const Vec3 on = {float(std::cos(angle)), p.position.y, float(std::sin(angle))};
            QVERIFY(length(p.position - on) < 0.06f); // the tube is 1 cm in radius and rises a little
        }
        QVERIFY2(heights.is_even(), qPrintable(heights.text()));
    }

    void extent_sequence_and_travel_say_where_along_a_shape() {
        Emitter ring = burst(BirthShape::ring, BirthFill::inside);
        ring.thickness = 0;
        ring.extent = {0.25f, 0.5f};
        for (const auto& p : born(ring)) {
            QVERIFY(p.position.x < 1e-4f && p.position.z > -1e-4f); // the second quarter
        }
        ring.extent = {0, 1};
        ring.order = BirthOrder::sequence;
        ring.sequence_length = 8;
        const auto in_turn = born(ring);
        for (size_t i = 0; i < 64; ++i) {
            const double angle = 2 * std::numbers::pi * double(i % 8) / 8;
            QVERIFY(length(in_turn[i].position - Vec3{float(std::cos(angle)), 0, float(std::sin(angle))}) <
                    1e-3f);
        }
        Emitter travelling = burst(BirthShape::ring, BirthFill::inside);
        travelling.thickness = 0;
        travelling.order = BirthOrder::travelling;
        travelling.burst_count = 0;
        travelling.rate = 600;
        travelling.travel = 0.25f;
        travelling.birth_place = 0.1f;
        Simulation simulation = run(effect_of(travelling), 2);
        for (const auto& p : particles(simulation)) {
            const double born_at = 2 - double(p.age);
            const double angle = 2 * std::numbers::pi * (0.1 + 0.25 * born_at);
            QVERIFY(length(p.position - Vec3{float(std::cos(angle)), 0, float(std::sin(angle))}) < 2e-3f);
        }
    }

    void even_order_leaves_no_gaps() {
        Emitter line = burst(BirthShape::line, BirthFill::inside);
        line.order = BirthOrder::even;
        line.burst_count = 1000;
        std::vector<float> places;
        for (const auto& p : born(line)) {
            places.push_back(p.position.x);
        }
        std::sort(places.begin(), places.end());
        float widest = 0;
        for (size_t i = 1; i < places.size(); ++i) {
            widest = std::max(widest, places[i] - places[i - 1]);
        }
        QVERIFY2(widest < 0.006f, qPrintable(QString::number(double(widest)))); // three times the mean gap
    }

    void mesh_gives_birth_by_area_and_at_its_corners() {
        QTemporaryDir folder;
        write_box_mesh(folder.filePath("box.obj").toStdString());
        Emitter emitter = burst(BirthShape::mesh, BirthFill::inside);
        emitter.mesh = "box.obj";
        emitter.scale = 2;
        AssetLibrary library;
        const LoadResult loaded = library.load(effect_of(emitter), folder.path().toStdString());
        QVERIFY(loaded.missing.empty() && loaded.notes.empty());
        int ends = 0;
        Bins along;
        for (const auto& p : born(emitter, loaded.assets)) {
            const Vec3 q = {p.position.x / 2, p.position.y, p.position.z};
            const float most = std::max({std::abs(q.x), std::abs(q.y), std::abs(q.z)});
            QVERIFY(std::abs(most - 1) < 1e-3f);
            const Vec3 normal = normalized(p.velocity);
            const bool is_end = std::abs(normal.x) > 0.5f;
            const Vec3 corner = {p.position.x / 2, p.position.y, p.position.z};
            QVERIFY(std::abs(dot(normal, corner) - 1) < 1e-3f); // each face is 1 away in these units
            ends += is_end ? 1 : 0;
            if (!is_end) {
                along.add(double(q.x + 1) / 2);
            }
        }
        // Ends are 2 of 10 square metres.
        QVERIFY(std::abs(ends - births / 5) < 400);
        QVERIFY2(along.is_even(), qPrintable(along.text()));

        emitter.mesh_birth = MeshBirth::corners;
        emitter.order = BirthOrder::sequence;
        emitter.sequence_length = 8;
        emitter.burst_count = 8;
        const auto corners = born(emitter, loaded.assets);
        QCOMPARE(corners.size(), size_t(8));
        for (const auto& p : corners) {
            QVERIFY(std::abs(std::abs(p.position.x) - 2) < 1e-4f &&
                    std::abs(std::abs(p.position.y) - 1) < 1e-4f);
        }
    }
};

QTEST_APPLESS_MAIN(TestShapes)
#include "tst_shapes.moc"
