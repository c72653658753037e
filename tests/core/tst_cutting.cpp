// Cutting meshes into closed pieces.
#include "core/cutting/cut.h"
#include "tests/core/sample_meshes.h"

#include <QtTest>

#include <cmath>
#include <set>

using namespace ember;

namespace {

double volume_of(const Mesh& mesh) {
    double six = 0;
    for (const auto& t : mesh.triangles) {
        six += double(dot(mesh.corners[t[0]], cross(mesh.corners[t[1]], mesh.corners[t[2]])));
    }
    return six / 6;
}

Cut cut_of(const Mesh& mesh, const CutOrder& order) {
    Problems problems;
    const auto cut = cut_apart(mesh, order, problems);
    for (const Problem& problem : problems) {
        qWarning("%s", problem.text().c_str());
    }
    return cut.value_or(Cut());
}

// Volumes add up to the whole's, and every piece is closed.
void verify_exact(const Mesh& mesh, const Cut& cut) {
    QVERIFY(!cut.pieces.empty());
    double sum = 0;
    size_t triangles = 0;
    for (const Piece& piece : cut.pieces) {
        QCOMPARE(piece.mesh.open_edges(), size_t(0));
        QVERIFY(piece.volume > 0);
        QVERIFY(piece.outer <= piece.mesh.triangles.size());
        sum += volume_of(piece.mesh);
        triangles += piece.mesh.triangles.size();
    }
    const double whole = std::fabs(volume_of(mesh));
    QVERIFY2(std::fabs(sum - whole) < 0.001 * whole, qPrintable(QString("%1 of %2").arg(sum).arg(whole)));
    QVERIFY(std::fabs(cut.volume - whole) < 0.001 * whole);
    QCOMPARE(cut.triangles, triangles);
}

bool hangs_together(const Cut& cut) {
    std::set<uint32_t> reached = {0};
    for (size_t round = 0; round < cut.pieces.size(); ++round) {
        for (const Bond& bond : cut.bonds) {
            if (reached.contains(bond.a) || reached.contains(bond.b)) {
                reached.insert({bond.a, bond.b});
            }
        }
    }
    return reached.size() == cut.pieces.size();
}

} // namespace

class TestCutting : public QObject {
    Q_OBJECT

  private slots:
    void every_pattern_cuts_every_body_exactly_data() {
        QTest::addColumn<int>("pattern");
        QTest::addColumn<int>("body");
        for (int pattern = 0; pattern <= int(CutPattern::courses); ++pattern) {
            for (int body = 0; body < 3; ++body) {
                QTest::addRow("pattern %d of body %d", pattern, body) << pattern << body;
            }
        }
    }
    void every_pattern_cuts_every_body_exactly() {
        QFETCH(int, pattern);
        QFETCH(int, body);
        const Mesh bodies[] = {block_mesh({2, 1, 0.5f}), ring_mesh(1, 0.3f, 32, 16), hollow_mesh()};
        CutOrder order;
        order.pattern = CutPattern(pattern);
        order.pieces = 60;
        order.sliver = 0;
        const Cut cut = cut_of(bodies[body], order);
        verify_exact(bodies[body], cut);
        QVERIFY(cut.pieces.size() >= 15);
        QVERIFY(hangs_together(cut));
    }

    // Many rings of spokes reach beyond a slab that is struck near its end. What they cut of a ring falls
    // apart into more.
    void spokes_are_about_as_many_as_asked_for_data() {
        QTest::addColumn<bool>("is_ring");
        QTest::addColumn<int>("asked");
        for (const int asked : {1, 2, 12, 60, 200}) {
            QTest::addRow("slab, %d", asked) << false << asked;
            QTest::addRow("ring, %d", asked) << true << asked;
        }
    }
    void spokes_are_about_as_many_as_asked_for() {
        QFETCH(bool, is_ring);
        QFETCH(int, asked);
        CutOrder order;
        order.pattern = CutPattern::spokes;
        order.pieces = asked;
        order.centre = is_ring ? Vec3() : Vec3{0.9f, 0.4f, 0};
        order.sliver = 0;
        const Cut cut = cut_of(is_ring ? ring_mesh(1, 0.3f, 32, 16) : block_mesh({2, 1, 0.1f}), order);
        const auto found = int(cut.pieces.size());
        QVERIFY2(found * 10 >= asked * 8 && found <= (is_ring ? 2 : 1) * asked + 3,
                 qPrintable(QString("%1 pieces").arg(found)));
    }

    void five_hundred_pieces_of_a_large_mesh_are_exact() {
        const Mesh ring = ring_mesh(1, 0.35f, 72, 35); // 5040 triangles
        CutOrder order;
        order.pieces = 500;
        const Cut cut = cut_of(ring, order);
        verify_exact(ring, cut);
        QVERIFY(cut.pieces.size() > 450);
    }

    void inner_faces_are_told_from_the_outside() {
        const Mesh box = block_mesh({1, 1, 1});
        CutOrder order;
        order.pieces = 20;
        order.sliver = 0;
        const Cut cut = cut_of(box, order);
        double outside = 0, inside = 0;
        for (const Piece& piece : cut.pieces) {
            for (size_t i = 0; i < piece.mesh.triangles.size(); ++i) {
                const auto& t = piece.mesh.triangles[i];
                const Vec3 a = piece.mesh.corners[t[0]];
                const float area =
                    length(cross(piece.mesh.corners[t[1]] - a, piece.mesh.corners[t[2]] - a)) / 2;
                (i < piece.outer ? outside : inside) += double(area);
            }
        }
        QVERIFY(std::fabs(outside - 6) < 1e-3);
        double touching = 0;
        for (const Bond& bond : cut.bonds) {
            touching += double(bond.area);
        }
        QVERIFY2(std::fabs(inside - 2 * touching) < 1e-3 * inside,
                 qPrintable(QString("%1 and %2").arg(inside).arg(touching)));
    }

    void two_halves_touch_in_the_whole_section() {
        CutOrder order;
        order.pattern = CutPattern::layers;
        order.axis = {0, 1, 0};
        order.pieces = 2;
        order.evenness = 1;
        const Cut cut = cut_of(block_mesh({2, 1, 0.5f}), order);
        QCOMPARE(cut.bonds.size(), size_t(1));
        QVERIFY(std::fabs(cut.bonds[0].area - 1.0f) < 1e-4f);
        QVERIFY(length(cut.bonds[0].middle) < 1e-4f);
        QVERIFY(cut.bonds[0].normal.y > 0.999f);
    }

    void a_block_of_a_course_rests_on_two_of_the_one_below() {
        CutOrder order;
        order.pattern = CutPattern::courses;
        order.block = {0.5f, 0.25f, 0.5f};
        const Cut cut = cut_of(block_mesh({2, 0.5f, 0.5f}), order);
        QCOMPARE(cut.pieces.size(), size_t(4 + 5));
        int beds = 0;
        for (const Bond& bond : cut.bonds) {
            if (std::fabs(bond.normal.y) > 0.9f) {
                QVERIFY(std::fabs(bond.area - 0.25f * 0.5f) < 1e-3f);
                ++beds;
            }
        }
        QCOMPARE(beds, 8);
    }

    void pieces_near_the_centre_of_a_graded_cut_are_smaller() {
        CutOrder order;
        order.pattern = CutPattern::graded;
        order.pieces = 200;
        order.grading = 0.8f;
        order.centre = {0.5f, 0, 0};
        const Cut cut = cut_of(block_mesh({2, 1, 1}), order);
        double near = 0, far = 0;
        int near_count = 0, far_count = 0;
        for (const Piece& piece : cut.pieces) {
            const bool is_near = length(piece.centre - order.centre) < 0.3f;
            (is_near ? near : far) += double(piece.volume);
            ++(is_near ? near_count : far_count);
        }
        QVERIFY(near_count > 10 && far_count > 10);
        QVERIFY(near / near_count * 4 < far / far_count);
    }

    void some_pieces_can_be_cut_again() {
        const Mesh box = block_mesh({2, 1, 1});
        CutOrder order;
        order.pieces = 20;
        const Cut once = cut_of(box, order);
        order.again = 10;
        order.again_centre = {-1, 0, 0};
        order.again_radius = 0.6f;
        const Cut twice = cut_of(box, order);
        verify_exact(box, twice);
        QVERIFY(hangs_together(twice));
        QVERIFY(twice.pieces.size() > once.pieces.size() + 8);
        const auto beyond = [](const Cut& cut) {
            return std::count_if(cut.pieces.begin(), cut.pieces.end(),
                                 [](const Piece& piece) { return piece.centre.x > 0.4f; });
        };
        QCOMPARE(beyond(twice), beyond(once));
    }

    void slivers_are_merged_and_counted() {
        const Mesh ring = ring_mesh(1, 0.2f, 48, 12);
        CutOrder order;
        order.pieces = 150;
        order.evenness = 0;
        order.sliver = 0.2f;
        const Cut cut = cut_of(ring, order);
        verify_exact(ring, cut);
        QVERIFY(cut.slivers > 0);
        for (const Piece& piece : cut.pieces) {
            QVERIFY(double(piece.volume) > 0.1 * cut.volume / double(cut.pieces.size()));
        }
    }

    void the_same_seed_cuts_the_same() {
        const Mesh box = block_mesh({1, 1, 1});
        CutOrder order;
        const Cut a = cut_of(box, order), b = cut_of(box, order);
        order.seed = 2;
        const Cut c = cut_of(box, order);
        QCOMPARE(a.pieces.size(), b.pieces.size());
        for (size_t i = 0; i < a.pieces.size(); ++i) {
            QVERIFY(a.pieces[i].mesh.corners == b.pieces[i].mesh.corners);
        }
        QVERIFY(!(c.pieces[0].mesh.corners == a.pieces[0].mesh.corners));
    }

    void a_flat_hole_is_closed_and_said() {
        Mesh open = block_mesh({1, 1, 1}); // without its lid
        std::erase_if(open.triangles, [&](const auto& t) {
            return open.corners[t[0]].y > 0 && open.corners[t[1]].y > 0 && open.corners[t[2]].y > 0;
        });
        QVERIFY(open.open_edges() > 0);
        Problems problems;
        const auto cut = cut_apart(open, {}, problems);
        QVERIFY(cut.has_value());
        verify_exact(block_mesh({1, 1, 1}), *cut);
        QCOMPARE(problems.size(), size_t(1));
        QVERIFY(problems[0].text().find("closed") != std::string::npos);
    }

    void what_has_no_inside_is_refused() {
        Mesh flat = block_mesh({1, 1, 0});
        Mesh torn = block_mesh({1, 1, 1}); // without its lid and a side: a bent hole
        std::erase_if(torn.triangles, [&](const auto& t) {
            const Vec3 middle = torn.corners[t[0]] + torn.corners[t[1]] + torn.corners[t[2]];
            return middle.y > 1.4f || middle.x > 1.4f;
        });
        Mesh crossed = block_mesh({1, 1, 1});
        const Mesh other = block_mesh({0.5f, 2, 0.5f});
        for (const auto& t : other.triangles) {
            crossed.triangles.push_back({t[0] + 8, t[1] + 8, t[2] + 8});
        }
        crossed.corners.insert(crossed.corners.end(), other.corners.begin(), other.corners.end());
        const std::pair<const Mesh&, const char*> cases[] = {
            {flat, "flat"}, {torn, "holes"}, {crossed, "crosses"}};
        for (const auto& [mesh, word] : cases) {
            Problems problems;
            QVERIFY(!cut_apart(mesh, {}, problems).has_value());
            QCOMPARE(problems.size(), size_t(1));
            QVERIFY2(problems[0].text().find(word) != std::string::npos, problems[0].text().c_str());
        }
    }

    void a_cut_can_be_cancelled() {
        Problems problems;
        int asked = 0;
        const Progress stop{[&](const std::string&, float) { return ++asked < 3; }};
        CutOrder order;
        order.pieces = 400;
        QVERIFY(!cut_apart(ring_mesh(1, 0.3f, 48, 24), order, problems, stop).has_value());
        QVERIFY(problems.empty());
    }
};

QTEST_GUILESS_MAIN(TestCutting)
#include "tst_cutting.moc"
