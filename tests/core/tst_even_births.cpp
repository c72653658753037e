// Births in an even order leave neither gaps nor clumps, on every shape and at any count; births in sequence
// go from place to place.
#include "sample_effects.h"
#include "sample_files.h"

#include <QTemporaryDir>
#include <QtTest>

#include <map>
#include <numbers>
#include <set>

using namespace ember;
using namespace ember::sample;

namespace {

std::vector<Vec3> places(Emitter emitter, int count, BirthOrder order, const Assets& assets = {}) {
    emitter.rate = 0;
    emitter.burst_count = count;
    emitter.capacity = count;
    emitter.order = order;
    emitter.speed = {0, 0};
    emitter.lifetime = {1000, 1000};
    emitter.look = "soft-dots";
    Simulation simulation;
    simulation.set_effect(shared(effect_of(emitter)), assets);
    simulation.step();
    std::vector<Vec3> found;
    for (const auto& p : particles(simulation)) {
        found.push_back(p.position);
    }
    return found;
}

// The mean distance of each place to the nearest other.
double mean_nearest(const std::vector<Vec3>& places) {
    double sum = 0;
    for (size_t i = 0; i < places.size(); ++i) {
        float nearest = 1e30f;
        for (size_t j = 0; j < places.size(); ++j) {
            const Vec3 way = places[i] - places[j];
            nearest = i == j ? nearest : std::min(nearest, dot(way, way));
        }
        sum += std::sqrt(double(nearest));
    }
    return sum / double(places.size());
}

// The same if places lay as far apart as they can: evenly on a line, in triangles, as balls are packed.
double ideal_nearest(int dimensions, double size, int count) {
    return dimensions == 1   ? size / count
           : dimensions == 2 ? 1.0746 * std::sqrt(size / count)
                             : 1.1225 * std::cbrt(size / count);
}

Assets read(const QTemporaryDir& folder, const Effect& effect) {
    AssetLibrary library;
    return library.load(effect, folder.path().toStdString()).assets;
}

} // namespace

class TestEvenBirths : public QObject {
    Q_OBJECT

  private slots:
    void even_is_more_even_than_chance_on_every_shape_data() {
        QTest::addColumn<int>("shape");
        QTest::addColumn<int>("fill");
        QTest::addColumn<float>("x");
        QTest::addColumn<float>("y");
        QTest::addColumn<float>("z");
        QTest::addColumn<float>("tube"); // thickness
        QTest::addColumn<int>("dimensions");
        QTest::addColumn<double>("size"); // m, m^2, m^3
        constexpr double pi = std::numbers::pi;
        const auto row = [](const char* name, BirthShape shape, BirthFill fill, Vec3 size, float tube,
                            int dimensions, double all) {
            QTest::newRow(name) << int(shape) << int(fill) << size.x << size.y << size.z << tube << dimensions
                                << all;
        };
        using enum BirthShape;
        constexpr auto inside = BirthFill::inside, surface = BirthFill::surface;
        row("line", line, inside, {2, 2, 2}, 0, 1, 2);
        row("disc", disc, inside, {2, 2, 2}, 0, 2, pi);
        row("rim of a disc", disc, surface, {2, 2, 2}, 0, 1, 2 * pi);
        row("square", rectangle, inside, {2, 0, 2}, 0, 2, 4);
        row("strip", rectangle, inside, {12, 0, 1}, 0, 2, 12);
        row("strip across", rectangle, inside, {0.5f, 0, 7}, 0, 2, 3.5);
        row("frame", rectangle, surface, {3, 0, 1}, 0, 1, 8);
        row("ring", ring, inside, {2, 2, 2}, 0, 1, 2 * pi);
        row("tube of a ring", ring, surface, {2, 2, 2}, 0.4f, 2, 4 * pi * pi * 0.2);
        row("thick ring", ring, surface, {2, 2, 2}, 1.6f, 2, 4 * pi * pi * 0.8);
        row("inside a ring", ring, inside, {2, 2, 2}, 0.8f, 3, 2 * pi * pi * 0.16);
        row("cube", box, inside, {2, 2, 2}, 0, 3, 8);
        row("slab", box, inside, {4, 0.5f, 3}, 0, 3, 6);
        row("skin of a cube", box, surface, {2, 2, 2}, 0, 2, 24);
        row("skin of a slab", box, surface, {4, 0.5f, 2}, 0, 2, 22);
        row("ball", ball, inside, {2, 2, 2}, 0, 3, 4 * pi / 3);
        row("long ball", ball, inside, {2, 4, 2}, 0, 3, 8 * pi / 3);
        row("skin of a ball", ball, surface, {2, 2, 2}, 0, 2, 4 * pi);
        row("skin of a long ball", ball, surface, {2, 4, 2}, 0, 2, 21.48);
        row("cylinder", cylinder, inside, {2, 2, 2}, 0, 3, 2 * pi);
        row("rod", cylinder, inside, {1, 8, 1}, 0, 3, 2 * pi);
        row("wall of a cylinder", cylinder, surface, {2, 2, 2}, 0, 2, 4 * pi);
        row("wall of a rod", cylinder, surface, {0.5f, 8, 0.5f}, 0, 2, 4 * pi);
        row("cone", cone, inside, {2, 2, 2}, 0, 3, 2 * pi / 3);
        row("skin of a cone", cone, surface, {2, 2, 2}, 0, 2, pi * std::sqrt(5));
    }
    void even_is_more_even_than_chance_on_every_shape() {
        QFETCH(int, shape);
        QFETCH(int, fill);
        QFETCH(float, x);
        QFETCH(float, y);
        QFETCH(float, z);
        QFETCH(float, tube);
        QFETCH(int, dimensions);
        QFETCH(double, size);
        Emitter emitter;
        emitter.shape = BirthShape(shape);
        emitter.fill = BirthFill(fill);
        emitter.size = {x, y, z};
        emitter.thickness = tube;
        for (const int count : {150, 500, 1700, 3000}) {
            const double ideal = ideal_nearest(dimensions, size, count);
            const double even = mean_nearest(places(emitter, count, BirthOrder::even)) / ideal;
            const double chance = mean_nearest(places(emitter, count, BirthOrder::shuffled)) / ideal;
            const QString what =
                QString("%1 births: %2 of the ideal, by chance %3").arg(count).arg(even).arg(chance);
            if (qEnvironmentVariableIsSet("EMBER_SAY")) {
                qInfo() << QTest::currentDataTag() << what;
            }
            QVERIFY2(even > (dimensions == 1 ? 0.6 : 0.5), qPrintable(what));
            QVERIFY2(even > 1.1 * chance, qPrintable(what));
        }
    }

    void a_mesh_is_covered_evenly_over_its_faces_and_each_corner_has_its_turn() {
        QTemporaryDir folder;
        Emitter emitter;
        emitter.shape = BirthShape::mesh;
        emitter.mesh = "box.obj";
        write_box_mesh(folder.filePath("box.obj").toStdString());
        const Assets assets = read(folder, effect_of(emitter));
        Emitter round = emitter;
        round.mesh = "ball.obj";
        write_ball_mesh(folder.filePath("ball.obj").toStdString(), 24);
        const Assets round_assets = read(folder, effect_of(round));
        for (const int count : {200, 1000, 2000, 3000}) {
            const auto gain = [count](const Emitter& of, const Assets& with) {
                return mean_nearest(places(of, count, BirthOrder::even, with)) /
                       mean_nearest(places(of, count, BirthOrder::shuffled, with));
            };
            QVERIFY2(gain(emitter, assets) > 1.1, qPrintable(QString::number(gain(emitter, assets))));
            QVERIFY2(gain(round, round_assets) > 1.1, qPrintable(QString::number(gain(round, round_assets))));
        }
        emitter.mesh_birth = MeshBirth::corners;
        for (const BirthOrder order : {BirthOrder::even, BirthOrder::sequence}) {
            for (const int length : {8, 5, 100}) {
                emitter.sequence_length = length;
                std::map<std::tuple<float, float, float>, int> corners;
                for (const Vec3& p : places(emitter, 2400, order, assets)) {
                    ++corners[{p.x, p.y, p.z}];
                }
                QCOMPARE(corners.size(), size_t(8));
                for (const auto& [place, count] : corners) {
                    QVERIFY2(count >= 296 && count <= 304, qPrintable(QString::number(count)));
                }
            }
        }
    }

    void a_sequence_has_as_many_places_as_births_in_a_round_data() {
        QTest::addColumn<int>("shape");
        QTest::addColumn<int>("fill");
        for (const auto shape : {BirthShape::line, BirthShape::disc, BirthShape::rectangle, BirthShape::ring,
                                 BirthShape::box, BirthShape::ball, BirthShape::cylinder, BirthShape::cone}) {
            for (const auto fill : {BirthFill::inside, BirthFill::surface}) {
                QTest::addRow("%d %d", int(shape), int(fill)) << int(shape) << int(fill);
            }
        }
    }
    void a_sequence_has_as_many_places_as_births_in_a_round() {
        QFETCH(int, shape);
        QFETCH(int, fill);
        Emitter emitter;
        emitter.shape = BirthShape(shape);
        emitter.fill = BirthFill(fill);
        emitter.size = {2, 2, 2};
        emitter.sequence_length = 12;
        const std::vector<Vec3> found = places(emitter, 48, BirthOrder::sequence);
        std::set<std::tuple<float, float, float>> different;
        for (size_t i = 0; i < found.size(); ++i) {
            different.insert({found[i].x, found[i].y, found[i].z});
            QVERIFY(length(found[i] - found[i % 12]) < 1e-6f);
        }
        QCOMPARE(different.size(), size_t(12));
    }
};

QTEST_APPLESS_MAIN(TestEvenBirths)
#include "tst_even_births.moc"
