// The pressure's solver alone: whatever flows, nothing piles up afterwards.
#include "core/smoke/pressure.h"
#include "core/smoke/rows.h"
#include "core/smoke/smoke_kernels.h"

#include <QtTest>

#include <cmath>
#include <random>

using namespace ember;

namespace {

constexpr double tolerance = 1e-4;
constexpr int most_rounds = 30;

// Velocities on the faces of a grid, and which of them are open.
struct Flow {
    SmokeSize size;
    FloatCells faces[3], open[3];

    Flow(int x, int y, int z, bool is_closed) : size{x, y, z, 0.1f, {}} {
        std::mt19937 random(7);
        std::uniform_real_distribution<float> speed(-1, 1);
        const int counts[3] = {x, y, z};
        for (int axis = 0; axis < 3; ++axis) {
            faces[axis].assign(size.plane_size(), 0.0f);
            open[axis].assign(size.plane_size(), 0.0f);
            int at[3];
            for (at[2] = 0; at[2] <= z; ++at[2]) {
                for (at[1] = 0; at[1] <= y; ++at[1]) {
                    for (at[0] = 0; at[0] <= x; ++at[0]) {
                        const bool is_face = at[(axis + 1) % 3] < counts[(axis + 1) % 3] &&
                                             at[(axis + 2) % 3] < counts[(axis + 2) % 3];
                        const bool is_side = at[axis] == 0 || at[axis] == counts[axis];
                        if (is_face && !(is_side && is_closed)) {
                            const size_t face = size.at(at[0], at[1], at[2]);
                            open[axis][face] = 1;
                            faces[axis][face] = speed(random);
                        }
                    }
                }
            }
        }
    }

    SmokePlanes planes() { return {faces[0].data(), faces[1].data(), faces[2].data()}; }

    // Shuts all faces of the cells of a box; nothing flows through them.
    void shut(const CellBox& box) {
        for (int z = box.low[2]; z < box.high[2]; ++z) {
            for (int y = box.low[1]; y < box.high[1]; ++y) {
                for (int x = box.low[0]; x < box.high[0]; ++x) {
                    const size_t at = size.at(x, y, z), steps[3] = {1, size.stride(), size.slice()};
                    for (int axis = 0; axis < 3; ++axis) {
                        for (const size_t face : {at, at + steps[axis]}) {
                            open[axis][face] = 0;
                            faces[axis][face] = 0;
                        }
                    }
                }
            }
        }
    }

    // Of all cells: root mean square of what flows out, over the mean difference of velocity.
    double outflow() const {
        double squares = 0, stretch = 0;
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    const size_t at = size.at(x, y, z), steps[3] = {1, size.stride(), size.slice()};
                    double sum = 0;
                    for (int axis = 0; axis < 3; ++axis) {
                        const double along = double(faces[axis][at + steps[axis]]) - double(faces[axis][at]);
                        sum += along;
                        stretch += std::fabs(along);
                    }
                    squares += sum * sum;
                }
            }
        }
        const auto cells = double(size.cells());
        return std::sqrt(squares / cells) / (stretch / (3 * cells));
    }
};

PressureSolver::Result press(PressureSolver& solver, Flow& flow) {
    const PressureSolver::Result found = solver.solve(flow.planes(), tolerance, most_rounds);
    run_stages(flow.size, {[&](int z) { solver.settle_slice(z); },
                           [&](int z) { solver.press_slice(flow.planes(), z); }});
    return found;
}

PressureSolver solver_for(const Flow& flow, Isa isa = best_isa()) {
    PressureSolver solver(*smoke_kernels(isa).pressure);
    solver.set_open(flow.size, flow.open, CellBox::whole(flow.size));
    return solver;
}

constexpr CellBox middle = {{8, 8, 8}, {16, 14, 13}};

} // namespace

class TestPressure : public QObject {
    Q_OBJECT

  private slots:
    void nothing_piles_up_data() {
        QTest::addColumn<int>("x");
        QTest::addColumn<int>("y");
        QTest::addColumn<int>("z");
        QTest::addColumn<bool>("closed");
        QTest::addColumn<bool>("hollow");
        for (const bool closed : {false, true}) {
            const char* sides = closed ? "closed" : "open";
            QTest::addRow("cube, %s", sides) << 32 << 32 << 32 << closed << false;
            QTest::addRow("flat, %s", sides) << 40 << 24 << 16 << closed << false;
            QTest::addRow("round something solid, %s", sides) << 32 << 24 << 24 << closed << true;
        }
    }
    void nothing_piles_up() {
        QFETCH(int, x);
        QFETCH(int, y);
        QFETCH(int, z);
        QFETCH(bool, closed);
        QFETCH(bool, hollow);
        Flow flow(x, y, z, closed);
        if (hollow) {
            flow.shut(middle);
        }
        QVERIFY(flow.outflow() > 0.5);
        PressureSolver solver = solver_for(flow);
        const PressureSolver::Result found = press(solver, flow);
        QVERIFY(found.rounds > 0 && found.rounds < most_rounds);
        QVERIFY(found.remains <= tolerance);
        // It is what it says, on the faces themselves: solved for the differences that there were before.
        QVERIFY2(flow.outflow() < 5 * tolerance, qPrintable(QString::number(flow.outflow())));
    }

    void the_next_one_begins_where_the_last_has_ended() {
        const Flow before(32, 32, 32, false);
        Flow first = before, again = before;
        PressureSolver solver = solver_for(before);
        const int rounds = press(solver, first).rounds;
        QVERIFY(rounds > 1);
        for (FloatCells& plane : again.faces) {
            for (size_t i = 0; i < plane.size(); ++i) {
                plane[i] *= 1.0001f;
            }
        }
        QVERIFY(press(solver, again).rounds < rounds);
    }

    // Something solid comes into the middle and goes again.
    void what_opens_again_is_as_it_was() {
        const Flow flow(32, 24, 24, false);
        Flow visited_flow = flow;
        visited_flow.shut(middle);
        PressureSolver visited = solver_for(flow), fresh = solver_for(flow);
        visited.set_open(flow.size, visited_flow.open, middle);
        QVERIFY(!visited.is_clear(8, 10, 10));
        QVERIFY(visited.is_clear(24, 10, 10));
        visited.set_open(flow.size, flow.open, middle);
        Flow one = flow, other = flow;
        const PressureSolver::Result found = press(visited, one), expected = press(fresh, other);
        QCOMPARE(found.rounds, expected.rounds);
        QCOMPARE(found.remains, expected.remains); // a share of cells that anything flows through
        QVERIFY(one.faces[0] == other.faces[0] && one.faces[1] == other.faces[1] &&
                one.faces[2] == other.faces[2]);
    }

    void shut_faces_are_let_be() {
        Flow flow(32, 24, 24, false);
        flow.shut(middle);
        PressureSolver solver = solver_for(flow);
        press(solver, flow);
        for (int axis = 0; axis < 3; ++axis) {
            QCOMPARE(flow.faces[axis][flow.size.at(10, 10, 10)], 0.0f);
            QCOMPARE(flow.faces[axis][flow.size.at(8, 8, 8)], 0.0f);
        }
    }

    void instruction_sets_agree() {
        const Flow before(24, 24, 24, true);
        Flow expected = before;
        PressureSolver reference = solver_for(before, Isa::scalar);
        press(reference, expected);
        for (const Isa isa : {Isa::v2, best_isa()}) {
            Flow flow = before;
            PressureSolver solver = solver_for(before, isa);
            press(solver, flow);
            float apart = 0;
            for (size_t i = 0; i < flow.faces[0].size(); ++i) {
                apart = std::max(apart, std::fabs(flow.faces[0][i] - expected.faces[0][i]));
            }
            QVERIFY2(apart < 1e-3f, qPrintable(QString::number(double(apart))));
        }
    }
};

QTEST_GUILESS_MAIN(TestPressure)
#include "tst_pressure.moc"
