// Smoke on paper: what a gas must do whatever its grid, and what is contained that no gas does.
#include "core/smoke/volume.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

#include <cmath>
#include <limits>
#include <numbers>

using namespace ember;

namespace {

constexpr double frame_s = 1.0 / 60;

// Nothing but being carried and pressed.
Smoke plain_smoke(int cells, SmokeSides sides) {
    Smoke smoke;
    smoke.position = {0, 1, 0};
    smoke.size = {2, 2, 2};
    smoke.resolution = cells;
    smoke.sides = sides;
    smoke.fade = smoke.settling = smoke.cooling = smoke.lift = smoke.curl = 0;
    smoke.fine_swirl = smoke.broad_swirl = 0;
    return smoke;
}

SmokeFeed ball_of(const Vec3& place, float radius, float density, float heat) {
    SmokeFeed feed;
    feed.place.position = place;
    feed.half_size = {radius, radius, radius};
    feed.density = density;
    feed.heat = heat;
    return feed;
}

ColliderRow ball_obstacle(const Vec3& place, float radius) {
    ColliderRow row{};
    row.kind = COLLIDER_BALL;
    row.position = row.was_position = place;
    row.axis_x = row.turned_x = {1, 0, 0};
    row.axis_y = row.turned_y = {0, 1, 0};
    row.axis_z = row.turned_z = {0, 0, 1};
    row.half_size = {radius, radius, radius};
    row.per_step = float(1 / frame_s);
    return row;
}

SmokeVolume running(const Smoke& smoke, const SmokeInfluences& influences, int steps, Isa isa = best_isa()) {
    SmokeVolume volume(smoke_kernels(isa));
    volume.set(smoke);
    SmokeInfluences now = influences;
    for (int i = 0; i < steps; ++i) {
        now.time_s = i * frame_s;
        volume.step(now, frame_s);
    }
    return volume;
}

Smoke rising_smoke(int cells) {
    Smoke smoke = plain_smoke(cells, SmokeSides::closed);
    smoke.lift = 5;
    return smoke;
}

// Near the floor.
SmokeInfluences hot_puff() {
    SmokeInfluences influences;
    influences.feeds = {ball_of({0, 0.5f, 0}, 0.25f, 30, 3000)};
    return influences;
}

// A hot, fed, stirred gas that meets a ball.
struct Busy {
    Smoke smoke = plain_smoke(40, SmokeSides::ground);
    SmokeInfluences influences;

    Busy() {
        smoke.lift = 4;
        smoke.curl = 1;
        smoke.fine_swirl = smoke.broad_swirl = 0.3f;
        influences.feeds = {ball_of({0, 0.4f, 0}, 0.3f, 3, 200)};
        influences.pushes = {{{0.4f, 0.5f, 0}, {-2, 0, 0.5f}, 0.2f, 0.2f, 20}};
        influences.obstacles = {ball_obstacle({0.1f, 1.1f, 0}, 0.25f)};
    }
};

// What flows out of a cell in one second, over its volume.
double divergence(const SmokeVolume& volume, int x, int y, int z) {
    const SmokeSize& size = volume.size();
    const size_t at = size.at(x, y, z);
    return (double(volume.faces(0)[at + 1]) - double(volume.faces(0)[at]) +
            double(volume.faces(1)[at + size.stride()]) - double(volume.faces(1)[at]) +
            double(volume.faces(2)[at + size.slice()]) - double(volume.faces(2)[at])) /
           double(size.cell);
}

template <class Visit>
void each_cell(const SmokeVolume& volume, Visit visit) {
    for (int z = 0; z < volume.size().z; ++z) {
        for (int y = 0; y < volume.size().y; ++y) {
            for (int x = 0; x < volume.size().x; ++x) {
                visit(x, y, z, volume.cells()[volume.size().packed(x, y, z)]);
            }
        }
    }
}

} // namespace

class TestSmoke : public QObject {
    Q_OBJECT

  private slots:
    void the_bound_is_covered_by_whole_blocks() {
        Smoke smoke;
        smoke.size = {3, 1, 2};
        smoke.resolution = 48;
        const SmokeSize size = size_of(smoke);
        QCOMPARE(size.x, 48);
        QCOMPARE(size.y, 16);
        QCOMPARE(size.z, 32);
        QCOMPARE(size.low.y, smoke.position.y - 0.5f);
    }

    void what_flows_into_a_cell_flows_out_of_it() {
        const Busy busy;
        const SmokeVolume volume = running(busy.smoke, busy.influences, 60);
        double square = 0, gradient = 0, count = 0;
        each_cell(volume, [&](int x, int y, int z, const SmokeCell&) {
            if (!volume.is_solid(x, y, z)) {
                const size_t at = volume.size().at(x, y, z);
                square += std::pow(divergence(volume, x, y, z), 2);
                gradient += std::fabs(double(volume.faces(1)[at + volume.size().stride()]) -
                                      double(volume.faces(1)[at])) /
                            double(volume.size().cell);
                ++count;
            }
        });
        QVERIFY(gradient / count > 0.01);
        const double share = std::sqrt(square / count) / (gradient / count);
        QVERIFY2(share < 1e-3, qPrintable(QString::number(share)));
    }

    void a_closed_box_keeps_its_smoke() {
        Busy busy;
        busy.smoke.sides = SmokeSides::closed;
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(busy.smoke);
        for (int i = 0; i < 30; ++i) {
            volume.step(busy.influences, frame_s);
        }
        busy.influences.feeds.clear();
        const double before = volume.mass();
        for (int i = 0; i < 600; ++i) {
            volume.step(busy.influences, frame_s);
        }
        QVERIFY(before > 1);
        QVERIFY2(std::fabs(volume.mass() / before - 1) < 0.005,
                 qPrintable(QString::number(volume.mass() / before)));
    }

    void smoke_leaves_by_open_sides() {
        Busy busy;
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(busy.smoke);
        for (int i = 0; i < 60; ++i) {
            volume.step(busy.influences, frame_s);
        }
        busy.influences.feeds.clear();
        const double before = volume.mass();
        for (int i = 0; i < 600; ++i) {
            volume.step(busy.influences, frame_s);
        }
        QVERIFY(volume.mass() < before * 0.3);
    }

    // Air that comes in by open sides must not bring along the motion that drew it in.
    void an_open_volume_makes_no_draught_that_feeds_itself() {
        Smoke smoke;
        smoke.position = {0, 0.5f, 0};
        smoke.size = {3, 1, 2.4f};
        smoke.resolution = 40;
        smoke.fade = 0.8f;
        smoke.lift = 1.5f;
        smoke.curl = smoke.curl_size = 0.5f;
        smoke.fine_swirl = 0.3f;
        smoke.broad_swirl = 0.15f;
        SmokeFeed warm;
        warm.place.position = {0, 0.1f, 0};
        warm.shape = FeedShape::box;
        warm.half_size = {1.2f, 0.05f, 0.9f};
        warm.density = 5;
        warm.heat = 80;
        SmokeInfluences influences;
        influences.feeds = {warm};
        influences.seed = 3;
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(smoke);
        double early = 0;
        for (int i = 0; i < 720; ++i) {
            volume.step(influences, frame_s);
            influences.time_s += frame_s;
            early = i == 180 ? volume.mass() : early;
        }
        QVERIFY(volume.mass() > 0.7 * early && volume.mass() < 1.5 * early);
        float fastest = 0;
        for (int z = 0; z < volume.size().z; ++z) {
            for (int y = 0; y < volume.size().y; ++y) {
                for (int x = 0; x < volume.size().x; ++x) {
                    fastest = std::max(fastest, length(volume.flow(x, y, z)));
                }
            }
        }
        QVERIFY2(fastest < 4, qPrintable(QString::number(double(fastest))));
    }

    void fading_takes_as_long_as_it_says_data() {
        QTest::addColumn<int>("steps_a_second");
        for (const int steps : {30, 60, 120}) {
            QTest::addRow("%d", steps) << steps;
        }
    }
    void fading_takes_as_long_as_it_says() {
        QFETCH(int, steps_a_second);
        Smoke smoke = plain_smoke(16, SmokeSides::closed);
        smoke.fade = float(std::numbers::ln2 / 2); // half of it in two seconds
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(smoke);
        SmokeInfluences influences;
        influences.feeds = {ball_of({0, 1, 0}, 0.5f, 5, 0)};
        volume.step(influences, 1.0 / steps_a_second);
        influences.feeds.clear();
        const double before = volume.mass();
        for (int i = 0; i < 2 * steps_a_second; ++i) {
            volume.step(influences, 1.0 / steps_a_second);
        }
        QVERIFY(std::fabs(volume.mass() / before - 0.5) < 0.01);
    }

    // Coarser grids and the pressures of the last steps bring most of it, however fine the grid.
    void pressure_is_found_in_few_rounds_on_any_grid() {
        constexpr int steps = 20;
        for (const int cells : {24, 40, 64}) {
            Busy busy;
            busy.smoke.resolution = cells;
            SmokeVolume volume = running(busy.smoke, busy.influences, 10);
            int rounds = 0;
            for (int i = 0; i < steps; ++i) {
                volume.step(busy.influences, frame_s);
                rounds += volume.meter().pressure_rounds;
                QVERIFY(volume.meter().remains < 1e-3);
            }
            QVERIFY2(rounds <= 3 * steps, qPrintable(QString("%1 of %2").arg(rounds).arg(cells)));
        }
    }

    // Heat spreads a share of a share each step, and with it the time that a step takes would grow: numbers
    // too small for normal floats take processors many times as long.
    void heat_that_thins_out_ends() {
        Smoke smoke = rising_smoke(32);
        smoke.cooling = 4;
        SmokeInfluences influences = hot_puff();
        SmokeVolume volume = running(smoke, influences, 0);
        int warm = 0;
        for (int i = 0; i < 90; ++i) {
            volume.step(influences, frame_s);
            if (i == 20) {
                influences.feeds.clear();
            }
            int tiny = 0;
            warm = 0;
            each_cell(volume, [&](int, int, int, const SmokeCell& cell) {
                for (const float each : {cell.heat, cell.density}) {
                    tiny += each != 0 && std::fabs(each) < 1e-20f ? 1 : 0;
                }
                warm += cell.heat > 0.01f ? 1 : 0;
            });
            QCOMPARE(tiny, 0);
        }
        QVERIFY(warm > 100); // what can be felt has not ended
    }

    void a_hot_puff_rises_evenly() {
        Smoke smoke = rising_smoke(48);
        smoke.fine_swirl = 0.2f;
        SmokeVolume volume = running(smoke, hot_puff(), 1);
        const SmokeInfluences influences; // no more is fed
        const auto height = [&] {
            double sum = 0, mass = 0;
            each_cell(volume, [&](int x, int y, int z, const SmokeCell& cell) {
                sum += double(cell.density * volume.size().middle(x, y, z).y);
                mass += double(cell.density);
            });
            return sum / mass;
        };
        const double before = height();
        for (int i = 0; i < 60; ++i) {
            volume.step(influences, frame_s);
        }
        QVERIFY(height() > before + 0.2);
        double difference = 0, sum = 0;
        const SmokeSize& size = volume.size();
        each_cell(volume, [&](int x, int y, int z, const SmokeCell& cell) {
            const SmokeCell& other = volume.cells()[size.packed(size.x - 1 - x, y, z)];
            difference += double(std::fabs(cell.density - other.density));
            sum += double(cell.density);
        });
        QVERIFY2(difference / sum < 0.01, qPrintable(QString::number(difference / sum)));
    }

    // Four eddies that stand for ever where nothing rubs (G. Taylor, A. Green, 1937), one in each quarter.
    void eddies_keep_their_energy() {
        Smoke smoke = plain_smoke(64, SmokeSides::closed);
        smoke.size = {2, 2, 0.25f};
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(smoke);
        const SmokeSize& size = volume.size();
        QCOMPARE(size.x, 64);
        QCOMPARE(size.z, 8);
        FloatCells faces[3];
        for (FloatCells& plane : faces) {
            plane.assign(size.plane_size(), 0.0f);
        }
        constexpr double speed = 1, pi = std::numbers::pi;
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y <= size.y; ++y) {
                for (int x = 0; x <= size.x; ++x) {
                    const double at_x = 2 * pi * x / 64, at_y = 2 * pi * y / 64, half = pi / 64;
                    faces[0][size.at(x, y, z)] = float(speed * std::sin(at_x) * std::cos(at_y + half));
                    faces[1][size.at(x, y, z)] = float(-speed * std::cos(at_x + half) * std::sin(at_y));
                }
            }
        }
        // Only smoke is carried: some of it is everywhere.
        SmokeInfluences influences;
        influences.feeds = {ball_of({0, 1, 0}, 10, 60, 0)};
        volume.step(influences, frame_s);
        volume.set_faces(faces);
        const auto energy = [&] {
            double sum = 0;
            each_cell(volume, [&](int x, int y, int z, const SmokeCell&) {
                sum += double(dot(volume.flow(x, y, z), volume.flow(x, y, z)));
            });
            return sum;
        };
        const double before = energy();
        const double turnover_s = 2 * pi * 0.5 / speed; // round an eddy half as wide as the box
        for (int i = 0; i < int(turnover_s / frame_s); ++i) {
            volume.step({}, frame_s);
        }
        const double kept = energy() / before;
        QVERIFY2(kept > 0.9 && kept < 1.02, qPrintable(QString::number(kept)));
    }

    void nothing_flows_through_an_obstacle() {
        const Busy busy;
        const SmokeVolume volume = running(busy.smoke, busy.influences, 90);
        int walls = 0;
        each_cell(volume, [&](int x, int y, int z, const SmokeCell&) {
            const size_t at = volume.size().at(x, y, z);
            if (x > 0 && volume.is_solid(x, y, z) != volume.is_solid(x - 1, y, z)) {
                ++walls;
                QCOMPARE(volume.faces(0)[at], 0.0f);
            }
            if (y > 0 && volume.is_solid(x, y, z) != volume.is_solid(x, y - 1, z)) {
                QCOMPARE(volume.faces(1)[at], 0.0f);
            }
        });
        QVERIFY(walls > 50);
    }

    // Two halves of a hollow box that close on one another: what they enclose cannot get out.
    void gas_that_obstacles_enclose_is_held_data() {
        QTest::addColumn<bool>("closed");
        QTest::newRow("open sides") << false;
        QTest::newRow("closed sides") << true;
    }
    void gas_that_obstacles_enclose_is_held() {
        QFETCH(bool, closed);
        SmokeInfluences influences;
        influences.feeds = {ball_of({0, 1, 0}, 0.6f, 1, 0)};
        const auto side = [](const Vec3& place, const Vec3& half, const Vec3& velocity) {
            ColliderRow row = ball_obstacle(place, 0);
            row.kind = COLLIDER_BOX;
            row.half_size = half;
            row.was_position = place - velocity * float(frame_s);
            row.is_moving = 1;
            return row;
        };
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(plain_smoke(32, closed ? SmokeSides::closed : SmokeSides::open));
        for (int i = 0; i < 40; ++i) {
            const float away = std::max(0.5f - 0.02f * float(i), 0.1f);
            const Vec3 way = {-1.2f, 0, 0};
            influences.obstacles.clear();
            for (const float to : {-1.0f, 1.0f}) {
                const Vec3 middle = {to * away, 1, 0}, own = way * to;
                influences.obstacles.push_back(
                    side(middle + Vec3{to * 0.25f, 0, 0}, {0.08f, 0.4f, 0.4f}, own));
                for (const float up : {-1.0f, 1.0f}) {
                    influences.obstacles.push_back(
                        side(middle + Vec3{0, up * 0.32f, 0}, {0.32f, 0.08f, 0.4f}, own));
                    influences.obstacles.push_back(
                        side(middle + Vec3{0, 0, up * 0.32f}, {0.32f, 0.4f, 0.08f}, own));
                }
            }
            volume.step(influences, frame_s);
            float fastest = 0;
            each_cell(volume, [&](int x, int y, int z, const SmokeCell&) {
                fastest = std::max(fastest, length(volume.flow(x, y, z)));
            });
            QVERIFY2(fastest < 12, qPrintable(QString("%1 m/s in step %2").arg(fastest).arg(i)));
        }
        QVERIFY(volume.is_solid(16, 16, 16)); // a pocket
        // They are gone, and it flows again.
        influences.obstacles.clear();
        volume.step(influences, frame_s);
        QVERIFY(!volume.is_solid(16, 16, 16));
    }

    void a_moving_obstacle_drags_the_gas_along() {
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(plain_smoke(32, SmokeSides::closed));
        SmokeInfluences influences;
        influences.carries = true;
        for (int i = 0; i < 30; ++i) {
            ColliderRow ball = ball_obstacle({-0.5f + float(i) / 60, 1, 0}, 0.3f);
            ball.was_position.x -= 1.0f / 60;
            ball.is_moving = 1;
            influences.obstacles = {ball};
            volume.step(influences, frame_s);
        }
        // Before it and behind it the gas goes the same way, beside it back.
        const auto speed_at = [&](float x, float y) {
            const SmokeSize& size = volume.size();
            const auto cell = [&](float place, float low) { return int((place - low) / size.cell); };
            return volume.flow(cell(x, size.low.x), cell(y, size.low.y), size.z / 2).x;
        };
        QVERIFY(speed_at(0.4f, 1) > 0.3f);
        QVERIFY(speed_at(-0.45f, 1) > 0.2f);
        QVERIFY(speed_at(0, 1.6f) < -0.02f);
    }

    void a_hand_pushes_smoke_down_on_the_floor_and_out() {
        Smoke smoke = plain_smoke(40, SmokeSides::closed);
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(smoke);
        SmokeInfluences influences;
        influences.feeds = {ball_of({0, 0.3f, 0}, 0.25f, 40, 0)};
        volume.step(influences, frame_s);
        influences.feeds.clear();
        influences.pushes = {{{0, 0.5f, 0}, {0, -2, 0}, 0.2f, 0.1f, 20}};
        const auto spread = [&] {
            double sum = 0, mass = 0;
            each_cell(volume, [&](int x, int y, int z, const SmokeCell& cell) {
                const Vec3 at = volume.size().middle(x, y, z);
                sum += double(cell.density * std::hypot(at.x, at.z));
                mass += double(cell.density);
            });
            return sum / mass;
        };
        const double before = spread();
        for (int i = 0; i < 60; ++i) {
            volume.step(influences, frame_s);
        }
        QVERIFY2(spread() > before * 1.8, qPrintable(QString::number(spread() / before)));
    }

    void blocks_that_hold_nothing_are_skipped() {
        Smoke smoke = plain_smoke(64, SmokeSides::ground);
        SmokeInfluences influences;
        SmokeVolume volume(smoke_kernels(best_isa()));
        volume.set(smoke);
        volume.step(influences, frame_s);
        QCOMPARE(volume.meter().active_cells, size_t(0));
        influences.feeds = {ball_of({0, 0.3f, 0}, 0.1f, 3, 0)};
        volume.step(influences, frame_s);
        QVERIFY(volume.meter().active_cells > 0);
        QVERIFY(volume.meter().active_cells < volume.meter().cells / 8);
    }

    // What is thin enough is gone, in its block too, and stays so though nothing touches its cells any more.
    void what_is_gone_does_not_come_back() {
        Smoke smoke = plain_smoke(32, SmokeSides::closed);
        smoke.fade = 20;
        SmokeInfluences influences;
        influences.feeds = {ball_of({0, 1, 0}, 0.2f, 30, 0)};
        SmokeVolume volume = running(smoke, influences, 10);
        QVERIFY(volume.mass() > 1);
        influences.feeds.clear();
        for (int i = 0; i < 60; ++i) {
            volume.step(influences, frame_s);
        }
        QCOMPARE(volume.meter().active_cells, size_t(0));
        for (int i = 0; i < 3; ++i) {
            volume.step(influences, frame_s);
            QCOMPARE(volume.mass(), 0.0);
        }
    }

    void particles_feed_what_they_are_in() {
        SmokeFeed feed;
        feed.shape = FeedShape::particles;
        feed.particles = {{{0.3f, 0.9f, -0.2f}, {}}, {{50, 0, 0}, {}}};
        feed.density = 60;
        SmokeInfluences influences;
        influences.feeds = {feed};
        const SmokeVolume volume = running(plain_smoke(32, SmokeSides::closed), influences, 1);
        QVERIFY(std::fabs(volume.mass() - 1) < 1e-3); // one unit from the one that is inside
    }

    void cells_of_another_size_take_over_what_there_is() {
        SmokeInfluences rising;
        SmokeFeed feed = ball_of({0, 0.5f, 0}, 0.3f, 2, 0);
        feed.velocity = {0, 2, 0};
        feed.moves = true;
        rising.feeds = {feed};
        const Smoke fine = plain_smoke(64, SmokeSides::closed);
        for (const int cells : {8, 24, 56, 96}) {
            SmokeVolume volume = running(fine, rising, 25);
            const auto held = [&volume] { return volume.mass() * std::pow(double(volume.size().cell), 3); };
            // The middle's height, and how fast it rises.
            const auto middle_of = [&volume] {
                const SmokeSize& size = volume.size();
                double sum = 0, height = 0, speed = 0;
                for (int z = 0; z < size.z; ++z) {
                    for (int y = 0; y < size.y; ++y) {
                        for (int x = 0; x < size.x; ++x) {
                            const double density = double(volume.cells()[size.packed(x, y, z)].density);
                            sum += density;
                            height += density * double(size.middle(x, y, z).y);
                            speed += density * double(volume.flow(x, y, z).y);
                        }
                    }
                }
                return std::pair(height / sum, speed / sum);
            };
            const double before = held();
            const auto was = middle_of();
            Smoke other = fine;
            other.resolution = cells;
            QVERIFY(!volume.set(other));
            QCOMPARE(volume.size().x, cells);
            QVERIFY(std::fabs(held() / before - 1) < 1e-3);
            const auto is = middle_of();
            const double cell = double(volume.size().cell);
            QVERIFY2(std::fabs(is.first - was.first) < 0.25 * cell, qPrintable(QString::number(is.first)));
            QVERIFY2(std::fabs(is.second / was.second - 1) < (cells < 16 ? 0.35 : 0.1),
                     qPrintable(QString::number(is.second / was.second)));
            // And it goes on, from what was kept as well.
            SmokeVolume again(smoke_kernels(best_isa()));
            again.restore(volume.kept());
            SmokeInfluences nothing;
            for (int i = 0; i < 10; ++i) {
                nothing.time_s = i * frame_s;
                volume.step(nothing, frame_s);
                again.step(nothing, frame_s);
            }
            QVERIFY(std::fabs(held() / before - 1) < 0.02);
            QVERIFY(middle_of().first > is.first);
            QCOMPARE(again.mass(), volume.mass());
            QVERIFY(again.faces(1) == volume.faces(1));
        }
        // Another bound begins anew.
        SmokeVolume moved = running(fine, rising, 5);
        Smoke elsewhere = fine;
        elsewhere.position.x += 0.1f;
        QVERIFY(moved.set(elsewhere));
        QCOMPARE(moved.mass(), 0.0);
    }

    void threads_and_instruction_sets_agree() {
        const Busy busy;
        SmokeCells results[2];
        for (const size_t threads : {1, 2}) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            results[threads - 1] = running(busy.smoke, busy.influences, 40).cells();
        }
        QVERIFY(std::memcmp(results[0].data(), results[1].data(), results[0].size() * sizeof(SmokeCell)) ==
                0);
        const SmokeVolume scalar = running(busy.smoke, busy.influences, 10, Isa::scalar);
        const SmokeVolume best = running(busy.smoke, busy.influences, 10);
        double difference = 0, sum = 0;
        for (size_t i = 0; i < best.cells().size(); ++i) {
            difference += double(std::fabs(scalar.cells()[i].density - best.cells()[i].density));
            sum += double(best.cells()[i].density);
        }
        QVERIFY2(difference / sum < 0.002, qPrintable(QString::number(difference / sum)));
    }

    void what_no_gas_does_is_contained_data() {
        QTest::addColumn<int>("what");
        const char* names[] = {"as fast as can be", "no number", "hotter than all", "no room",
                               "stopped by all"};
        for (int i = 0; i < 5; ++i) {
            QTest::newRow(names[i]) << i;
        }
    }
    void what_no_gas_does_is_contained() {
        QFETCH(int, what);
        Busy busy;
        const float nan = std::numeric_limits<float>::quiet_NaN();
        if (what == 0) {
            busy.influences.pushes[0].velocity = {1e6f, -1e6f, 1e6f};
        } else if (what == 1) {
            busy.influences.pushes[0].velocity = {nan, nan, 0};
            busy.influences.feeds[0].density = nan;
        } else if (what == 2) {
            busy.influences.feeds[0].heat = 1e30f;
        } else if (what == 3) {
            busy.influences.obstacles = {ball_obstacle({0, 1, 0}, 50)};
        } else {
            busy.smoke.sides = SmokeSides::closed;
            busy.influences.obstacles = {ball_obstacle({0, 1, 0}, 0.98f)};
        }
        const SmokeVolume volume = running(busy.smoke, busy.influences, 30);
        each_cell(volume, [&](int x, int y, int z, const SmokeCell& cell) {
            QVERIFY(std::isfinite(cell.density) && std::isfinite(cell.heat));
            const Vec3 flow = volume.flow(x, y, z);
            QVERIFY(std::isfinite(flow.x) && std::isfinite(flow.y) && std::isfinite(flow.z));
        });
        // And it goes on: what is reasonable again is computed as ever.
        const Busy fine;
        SmokeVolume after = volume;
        for (int i = 0; i < 30; ++i) {
            after.step(fine.influences, frame_s);
        }
        QVERIFY(after.mass() > 0);
    }
};

QTEST_GUILESS_MAIN(TestSmoke)
#include "tst_smoke.moc"
