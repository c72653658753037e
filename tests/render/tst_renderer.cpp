#include "render/png.h"
#include "render/renderer.h"

#include <oneapi/tbb/global_control.h>

#include <QImage>
#include <QTemporaryDir>
#include <QtTest>

#include "core/effect/effect_file.h"
#include "scene.h"

#include <numeric>

using namespace ember;
using namespace ember::scene;

namespace {

void draw(const Scene& scene, Renderer& renderer) {
    Picture picture;
    renderer.draw(scene.frame, scene.effect, scene.camera, width, height, picture);
}

std::vector<float> red_of(const Renderer& renderer) {
    const LightPlanes& light = renderer.light();
    std::vector<float> red;
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            red.push_back(at(light, x, y));
        }
    }
    return red;
}

// What a renderer shows once further pictures change nothing.
std::vector<float> settled(const Scene& scene, Renderer& renderer) {
    do {
        draw(scene, renderer);
    } while (!renderer.is_settled());
    return red_of(renderer);
}

} // namespace

class TestRenderer : public QObject {
    Q_OBJECT

  private slots:
    void trails_have_the_colours_that_their_particles_were_born_with() {
        Look look = white(Blend::add);
        look.drawn_as = Drawing::trails;
        Scene scene(look);
        FrameSource& source = scene.frame.sources[0];
        source.largest_size = 0.5f;
        source.trails = {{0, 2, 0, 0.5f}};
        source.trail_points = {{{-1, 0, 0}, 0}, {{1, 0, 0}, 0.1f}};
        source.trails[0].mark.set_tint({1, 0.25f, 0, 1});
        const LightPlanes light = scene.light();
        const size_t middle = size_t(height / 2) * size_t(width) + size_t(width / 2);
        QVERIFY(light.red[middle] > 0.5f);
        QVERIFY(std::fabs(light.green[middle] / light.red[middle] - 0.25f) < 0.03f);
        QVERIFY(light.blue[middle] < 0.02f);
    }

    void what_a_source_costs_in_the_picture_is_a_part_of_the_whole() {
        for (const Drawing drawn_as :
             {Drawing::dots, Drawing::streaks, Drawing::trails, Drawing::cards, Drawing::meshes}) {
            for (const bool is_seen : {true, false}) {
                Look look = white(Blend::add);
                look.drawn_as = drawn_as;
                Scene scene(look);
                for (int i = 0; i < 300; ++i) {
                    scene.add({0.002f * float(i), 0, is_seen ? 0.0f : 1e4f}, 0.3f); // behind the camera
                }
                draw(scene, scene.renderer);
                const DrawMeters& meters = scene.renderer.meters();
                QCOMPARE(meters.element_ms.size(), scene.effect.elements.size());
                double sum = 0;
                for (const double ms : meters.element_ms) {
                    QVERIFY(std::isfinite(ms) && ms >= 0);
                    sum += ms;
                }
                QVERIFY(sum > 0 && sum <= (meters.dots_ms + meters.smoke_ms) * 1.001);
                QCOMPARE(meters.element_ms[0], sum); // it is all of the one source
            }
        }
    }

    // Fewer of those that are far, as bright together; near ones and saved pictures have all.
    void far_ones_that_stay_stand_for_those_that_do_not() {
        for (const Drawing drawn_as : {Drawing::dots, Drawing::streaks, Drawing::cards}) {
            for (const Blend blend : {Blend::add, Blend::over}) {
                Look look = white(blend);
                look.drawn_as = drawn_as;
                look.opacity = 0.03f;
                const auto thinned = [&](float depth, int given, bool is_preview) {
                    Scene scene(look);
                    scene.effect.budget.keeper = true;
                    scene.effect.budget.far_from = 4;
                    scene.effect.budget.far_least = 0.25f;
                    scene.frame.gives[size_t(GiveWay::far)] = uint8_t(given);
                    scene.renderer.set_preview(is_preview);
                    for (int i = 0; i < 4000; ++i) {
                        const float x = float(i % 80) / 40 - 1, y = float(i / 80) / 25 - 1;
                        scene.add({x, y, 5 - depth}, 0.2f);
                        scene.frame.sources[0].numbers.push_back(uint32_t(i) * 7919);
                    }
                    scene.frame.sources[0].motions.assign(4000, FrameMotion::of({0, 1, 0}, 1));
                    scene.frame.sources[0].fastest = 1;
                    const double light = sum(scene.light());
                    return std::pair(light, scene.renderer.meters().dots);
                };
                const auto all = thinned(10, 0, true), few = thinned(10, most_given, true);
                QVERIFY2(std::fabs(few.first / all.first - 1) < 0.06,
                         qPrintable(QString::number(few.first / all.first)));
                QVERIFY2(std::fabs(double(few.second) / double(all.second) - 0.25) < 0.03,
                         qPrintable(QString::number(few.second)));
                QCOMPARE(thinned(10, most_given, false), all);
                QCOMPARE(thinned(3.9f, most_given, true), thinned(3.9f, 0, true));
                const auto half = thinned(6, most_given, true); // half the way to the least
                QVERIFY(std::fabs(double(half.second) / double(all.second) - 0.625) < 0.04);
            }
        }
    }

    void far_meshes_are_fewer_too() {
        Look look = white();
        look.drawn_as = Drawing::meshes;
        const auto triangles = [&](int given) {
            Scene scene(look);
            scene.effect.budget.keeper = true;
            scene.effect.budget.far_from = 4;
            scene.frame.gives[size_t(GiveWay::far)] = uint8_t(given);
            scene.renderer.set_preview(true);
            for (int i = 0; i < 2000; ++i) {
                scene.add({float(i % 50) / 25 - 1, float(i / 50) / 20 - 1, -5}, 0.1f);
                scene.frame.sources[0].numbers.push_back(uint32_t(i) * 7919);
            }
            draw(scene, scene.renderer);
            return double(scene.renderer.meters().triangles);
        };
        QVERIFY(triangles(0) > 2000);
        QVERIFY(std::fabs(triangles(most_given) / triangles(0) - 0.25) < 0.04);
    }

    void a_trail_ends_in_half_discs() {
        for (const float edge : {0.0f, 1.0f}) {
            Look look = white(Blend::add);
            look.drawn_as = Drawing::trails;
            look.edge = edge;
            look.width_along.points = {{0, 1}, {1, 1}};
            look.opacity_along.points = {{0, 1}, {1, 1}};
            Scene scene(look);
            FrameSource& source = scene.frame.sources[0];
            source.trails = {{0, 2, 0, 1}};
            source.trail_points = {{{0, 0, 0}, 0}, {{0, -1.5f, 0}, 1}};
            const LightPlanes light = scene.light();
            const float per_pixel = 2 * 5 * 0.36397f / float(height);
            const auto lit_at = [&](float x_m, float y_m) {
                return at(light, int(float(width) / 2 + x_m / per_pixel),
                          int(float(height) / 2 - y_m / per_pixel));
            };
            // Round the head as far as beside it: a square end would be cut at 0, or lit in its corners.
            const float beside = lit_at(0.3f, -0.7f);
            QVERIFY(beside > 0.1f);
            QVERIFY2(std::fabs(lit_at(0, 0.3f) - beside) < 0.12f,
                     qPrintable(QString("%1 %2").arg(lit_at(0, 0.3f)).arg(beside)));
            QVERIFY(std::fabs(lit_at(0.21f, 0.21f) - beside) < 0.12f);
            QVERIFY(lit_at(0.42f, 0.42f) < 0.01f);
            QVERIFY(lit_at(0, 0.55f) < 0.01f);
        }
    }

    // From one end to the other: the speed times the streak, and the dot itself. It lies behind the dot.
    void streak_is_as_long_as_the_speed_says() {
        for (const auto& [speed, streak] : {std::pair(4.0f, 0.1f), {10.0f, 0.08f}, {-6.0f, 0.2f}}) {
            Look look = white();
            look.drawn_as = Drawing::streaks;
            look.streak = streak;
            look.edge = 0.05f;
            Scene scene(look);
            scene.add({0.2f, 0.1f, 0}, 0.2f);
            scene.frame.sources[0].fastest = 20;
            scene.frame.sources[0].motions = {FrameMotion::of({speed, 0, 0}, 20)};
            const LightPlanes& light = scene.light();
            const double metres_per_pixel = 2 * 5 * std::tan(20 * M_PI / 180) / height;
            const int y = int(height / 2 - 0.1 / metres_per_pixel);
            int first = width, last = 0;
            for (int x = 0; x < width; ++x) {
                if (at(light, x, y) > 0.05f) {
                    first = std::min(first, x);
                    last = std::max(last, x);
                }
            }
            const double length = (last - first + 1) * metres_per_pixel;
            QVERIFY(std::abs(length - (std::abs(speed) * streak + 0.2)) < 2.5 * metres_per_pixel);
            const double middle = ((first + last + 1) / 2.0 - width / 2.0) * metres_per_pixel;
            QVERIFY(std::abs(middle - (0.2 - speed * streak / 2)) < 1.5 * metres_per_pixel);
        }
    }

    void streaks_foreshorten_when_they_come_towards_the_camera() {
        Look look = white();
        look.drawn_as = Drawing::streaks;
        look.streak = 0.1f;
        Scene aside(look), towards(look);
        for (Scene* scene : {&aside, &towards}) {
            scene->add({}, 0.1f);
            scene->frame.sources[0].fastest = 10;
        }
        aside.frame.sources[0].motions = {FrameMotion::of({10, 0, 0}, 10)};
        towards.frame.sources[0].motions = {FrameMotion::of({0, 0, 10}, 10)};
        QVERIFY(sum(aside.light()) > 5 * sum(towards.light()));
    }

    void copies_stand_round_their_particle_each_time_in_the_same_place() {
        Look look = white();
        look.copies = 5;
        look.copies_radius = 0.1f; // all about as far from the camera
        Scene one(white()), many(look);
        for (Scene* scene : {&one, &many}) {
            scene->add({}, 0.1f);
            scene->frame.sources[0].numbers = {1234};
        }
        QVERIFY(std::abs(sum(many.light()) / sum(one.light()) - 6) < 0.25);
        many.effect.stage.copies_shown = 0.4f; // while one works
        QVERIFY(std::abs(sum(many.light()) / sum(one.light()) - 6) < 0.25);
        many.renderer.set_preview(true);
        QVERIFY(std::abs(sum(many.light()) / sum(one.light()) - 3) < 0.15);

        look.copies_radius = 0.8f;
        PreparedLook ready = prepared(look, Lighting{});
        double outer = 0;
        for (uint32_t number = 0; number < 2000; ++number) {
            const Vec3 offset = copy_offset(number, 1 + int(number % 5), 0.5f, ready);
            QVERIFY(length(offset) <= 0.8f);
            QCOMPARE(offset, copy_offset(number, 1 + int(number % 5), 0.5f, ready));
            outer += length(offset) > 0.8f * std::cbrt(0.5f) ? 1 : 0;
        }
        QVERIFY(std::abs(outer / 2000 - 0.5) < 0.05); // evenly inside
        ready.copies_ragged = 0;
        QVERIFY(std::abs(length(copy_offset(7, 2, 0.5f, ready)) - 0.8f) < 1e-4f);
        ready.copies_clump = 1;
        QVERIFY(length(copy_offset(7, 2, 1, ready)) < 1e-5f);
    }

    // Ribbons cover what their length and width say; where pieces meet there is neither gap nor overlap.
    void ribbons_are_seamless_at_their_joints() {
        Look look = white();
        look.drawn_as = Drawing::trails;
        look.width_along = look.opacity_along = {{{0, 1}, {1, 1}}};
        const auto light_of = [&](const std::vector<Vec3>& places) {
            Scene scene(look);
            FrameSource& source = scene.frame.sources[0];
            source.trails = {{0, uint32_t(places.size()), 0, 0.2f}};
            for (size_t i = 0; i < places.size(); ++i) {
                source.trail_points.push_back({places[i], float(i) / float(places.size() - 1)});
            }
            return sum(scene.light());
        };
        const double pixels = height / 2.0 / std::tan(20 * M_PI / 180) / 5; // per metre
        // Across it, 1 - u^2 squared has a mean of 8/15.
        const double straight = light_of({{-1, 0.3f, 0}, {1, 0.3f, 0}});
        // Its two half discs have a mean of 1/3.
        const double ends = M_PI / 3 * 0.1 * pixels * 0.1 * pixels;
        QVERIFY(std::abs(straight / (2 * pixels * 0.2 * pixels * 8 / 15 + ends) - 1) < 0.02);
        std::vector<Vec3> many;
        for (int i = 0; i <= 20; ++i) {
            many.push_back({-1 + 0.1f * float(i), 0.3f, 0});
        }
        QVERIFY(std::abs(light_of(many) / straight - 1) < 0.002);
        for (const float bend : {20.0f, 45.0f, 70.0f}) {
            const float a = bend * float(M_PI) / 180;
            const double bent =
                light_of({{-1, -0.3f, 0}, {0, -0.3f, 0}, {std::cos(a), -0.3f + std::sin(a), 0}});
            QVERIFY2(std::abs(bent / straight - 1) < 0.03, qPrintable(QString::number(bent / straight)));
        }
    }

    void ribbons_narrow_and_fade_along_them_and_hide_behind_surfaces() {
        Look look = white();
        look.drawn_as = Drawing::trails;
        look.width_along = {{{0, 1}, {1, 0.2f}}};
        look.opacity_along = {{{0, 1}, {1, 0.5f}}};
        Plane wall;
        wall.normal = {0, 0, 1};
        const auto draw = [&](float z) {
            auto scene = std::make_unique<Scene>(look, std::vector<ElementBody>{wall});
            scene->effect.stage.sky_strength = 0;
            FrameSource& source = scene->frame.sources[0];
            source.trails = {{0, 2, 0, 0.4f}};
            source.trail_points = {{{-1.2f, 0, z}, 0}, {{1.2f, 0, z}, 1}};
            scene->light();
            return scene;
        };
        const auto front = draw(0.5f);
        const auto column = [&](int x) {
            double total = 0, most = 0;
            for (int y = 0; y < height; ++y) {
                const double value = double(at(front->renderer.light(), x, y));
                total += value;
                most = std::max(most, value);
            }
            return std::pair(total, most);
        };
        const auto [wide, bright] = column(60);
        const auto [narrow, faint] = column(140);
        QVERIFY(faint < 0.85 * bright && narrow / faint < 0.75 * wide / bright);
        QVERIFY(sum(draw(-0.5f)->renderer.light()) < 1e-3 * sum(front->renderer.light()));
    }

    void shutter_blurs_along_the_motion_and_keeps_the_light() {
        Scene still(white()), moving(white());
        for (Scene* scene : {&still, &moving}) {
            scene->add({}, 0.2f);
            scene->frame.sources[0].fastest = 10;
            scene->frame.sources[0].motions = {FrameMotion::of({0, 8, 0}, 10)};
        }
        moving.effect.stage.shutter = 0.1f;
        const double before = sum(still.light());
        QVERIFY(std::abs(sum(moving.light()) / before - 1) < 0.03);
        QVERIFY(at(moving.light(), width / 2, height / 2) < 0.5f * at(still.light(), width / 2, height / 2));
    }

    // Tiles that show only the stage are not copied anew: what went through one must leave nothing behind,
    // and what changes the stage must be seen in all of them.
    void tiles_that_dots_have_left_show_the_stage() {
        const auto before_sky = [](float sky) {
            auto scene = std::make_unique<Scene>(white());
            scene->effect.stage.sky_top = scene->effect.stage.sky_horizon = {sky, sky, sky, 1};
            scene->effect.stage.sky_strength = 1;
            return scene;
        };
        const auto scene = before_sky(0.2f), still = before_sky(0.2f);
        // Of so many samples of the stage that its pixels may differ by rounding.
        const auto same = [](double a, double b) { return std::abs(a / b - 1) < 1e-6; };
        scene->add({-1, 0, 0}, 0.3f);
        scene->light();
        QVERIFY(sum(scene->light()) > 1.001 * sum(still->light()));
        const auto empty = [&] {
            scene->frame.sources[0] = {};
            scene->frame.sources[0].largest_size = 1;
        };
        empty();
        scene->light();
        QVERIFY(same(sum(scene->light()), sum(still->light())));
        scene->add({1, 0, 0}, 0.3f);
        const LightPlanes later = scene->light();
        const int seen_at = width / 2 + 45;
        QVERIFY(at(later, seen_at, height / 2) > 2 * at(still->light(), seen_at, height / 2));
        QVERIFY(
            same(at(later, width - seen_at, height / 2), at(still->light(), width - seen_at, height / 2)));

        // A light behind all, then none, then another sky.
        empty();
        scene->renderer.set_backdrop(0.7f);
        QCOMPARE(at(scene->light(), 3, 3), 0.7f);
        scene->renderer.set_backdrop({});
        QVERIFY(same(sum(scene->light()), sum(still->light())));
        scene->effect.stage.sky_top = scene->effect.stage.sky_horizon = {0.4f, 0.4f, 0.4f, 1};
        QVERIFY(same(sum(scene->light()), sum(before_sky(0.4f)->light())));
    }

    // The light that is asked for is that of the picture: with bloom round what is bright, but no more in
    // all.
    void light_that_is_asked_for_has_its_bloom() {
        Scene plain(white()), bloomed(white());
        bloomed.effect.stage.bloom = 0.5f;
        bloomed.effect.stage.bloom_threshold = 0.1f;
        for (Scene* scene : {&plain, &bloomed}) {
            scene->add({}, 0.2f);
        }
        const LightPlanes sharp = plain.light(), soft = bloomed.light();
        QVERIFY(at(soft, width / 2 + 20, height / 2) > at(sharp, width / 2 + 20, height / 2));
        QVERIFY(at(soft, width / 2, height / 2) < at(sharp, width / 2, height / 2));
        QVERIFY(std::abs(sum(soft) / sum(sharp) - 1) < 0.05);
        QCOMPARE(sum(bloomed.renderer.light()), sum(soft)); // asking changes nothing
    }

    // A small dot out of focus becomes an even disc; the spread of its light says how large.
    void focus_blur_follows_the_thin_lens() {
        for (const float depth : {2.5f, 4.0f, 5.0f, 8.0f, 20.0f}) {
            Scene scene(white());
            scene.effect.stage.aperture = 400;
            scene.effect.stage.focus = {0, 0, 0}; // 5 m from the camera
            const Vec3 place = {0, 0, 5 - depth};
            const float size = 0.01f * depth;
            scene.add(place, size);
            const LightPlanes& light = scene.light();
            const double total = sum(light);
            double square = 0;
            for (int y = 0; y < height; ++y) {
                for (int x = 0; x < width; ++x) {
                    const double dx = x + 0.5 - width / 2.0, dy = y + 0.5 - height / 2.0;
                    square += double(at(light, x, y)) * (dx * dx + dy * dy) / 2;
                }
            }
            const double radius = 2 * std::sqrt(square / total); // of an even disc
            const double pixels = height / 2.0 / std::tan(20 * M_PI / 180);
            const double blur = 0.5 * 0.4 * pixels / 5 * std::abs(depth - 5) / depth;
            const double own = size / 2 / depth * pixels;
            if (blur > 4 * own) {
                // A dot that fades from its middle has a third of an even one's light.
                QVERIFY(std::abs(total / (M_PI * own * own / 3) - 1) < 0.04);
                QVERIFY2(std::abs(radius / blur - 1) < 0.05,
                         qPrintable(QString("%1 %2").arg(radius).arg(blur)));
            } else if (blur == 0) {
                QVERIFY(radius < 1.5 * own);
            }
        }
    }

    void stage_out_of_focus_is_blurred_and_in_focus_is_not() {
        Box box;
        box.position = {0, 0, 0};
        box.size = {1, 1, 0.2f};
        Scene scene(white(), {box});
        scene.effect.stage.sky_top = scene.effect.stage.sky_horizon = {1, 1, 1, 1};
        const auto steepest = [&] {
            LightPlanes light;
            for (int i = 0; i <= Renderer::most_stage_samples; ++i) {
                scene.light();
            }
            float most = 0;
            for (int x = 1; x < width; ++x) {
                most = std::max(most, std::abs(at(scene.renderer.light(), x, height / 2) -
                                               at(scene.renderer.light(), x - 1, height / 2)));
            }
            return most;
        };
        const float sharp = steepest();
        QVERIFY(sharp > 0.1f);
        scene.effect.stage.aperture = 300;
        scene.effect.stage.focus = {0, 0, 0.1f};
        QVERIFY(steepest() > 0.4f * sharp); // its own edge; the sky behind it is blurred
        scene.effect.stage.focus = {0, 0, 3.5f};
        QVERIFY(steepest() < 0.25f * sharp);
        scene.effect.stage.aperture = 0;
        QVERIFY(std::abs(steepest() / sharp - 1) < 0.01f);
    }

    void depth_is_read_of_dots_and_surfaces() {
        Plane wall;
        wall.normal = {0, 0, 1};
        Scene scene(white(), {wall});
        scene.add({0, 0, 1}, 0.2f);
        scene.light();
        QVERIFY(std::abs(*scene.renderer.depth_at(width / 2, height / 2) - 4) < 0.01f);
        QVERIFY(std::abs(*scene.renderer.depth_at(width / 2 + 40, height / 2) - 5) < 0.01f);
        Scene empty(white());
        empty.light();
        QVERIFY(!empty.renderer.depth_at(width / 2, 10));
    }

    void glare_sends_rays_in_their_directions() {
        Look look = white();
        look.glow = 40;
        Scene scene(look);
        scene.add({}, 0.15f);
        const double before = sum(scene.light());
        scene.effect.stage.glare = 0.5f;
        scene.effect.stage.glare_rays = 2;
        scene.effect.stage.glare_angle = 90;
        scene.effect.stage.glare_length = 0.2f;
        scene.picture();
        // The pictures' own light, with the rays added while it becomes pixels: up and down, not aside.
        const LightPlanes& light = scene.renderer.light();
        QVERIFY(at(light, width / 2, height / 2 - 40) > 0.02f);
        QVERIFY(at(light, width / 2, height / 2 + 40) > 0.02f);
        QVERIFY(at(light, width / 2 + 40, height / 2) < 0.1f * at(light, width / 2, height / 2 - 40));
        QVERIFY(sum(light) > before);
    }

    void grade_bends_single_channels_of_the_picture() {
        Scene scene(white());
        scene.effect.stage.sky_top = scene.effect.stage.sky_horizon = {0.2f, 0.2f, 0.2f, 1};
        const QRgb before = scene.picture().pixels[0];
        QCOMPARE(qRed(before), qBlue(before));
        scene.effect.stage.grade_red = {{{0, 1}, {1, 0}}};
        const QRgb after = scene.picture().pixels[0];
        QVERIFY(std::abs(qRed(after) - (255 - qRed(before))) <= 2);
        QVERIFY(std::abs(qBlue(after) - qBlue(before)) <= 1);
    }

    void vignette_darkens_the_corners_and_grain_keeps_the_mean() {
        Scene scene(white());
        scene.effect.stage.sky_top = scene.effect.stage.sky_horizon = {0.3f, 0.3f, 0.3f, 1};
        const auto mean = [](const Picture& picture, int left, int top, int size) {
            double total = 0;
            for (int y = top; y < top + size; ++y) {
                for (int x = left; x < left + size; ++x) {
                    total += qGreen(picture.pixels[size_t(y * picture.width + x)]);
                }
            }
            return total / (size * size);
        };
        const Picture plain = scene.picture();
        scene.effect.stage.vignette = 1;
        const Picture dark = scene.picture();
        QVERIFY(mean(dark, 0, 0, 6) < 0.6 * mean(plain, 0, 0, 6));
        QVERIFY(std::abs(mean(dark, 97, 77, 6) - mean(plain, 97, 77, 6)) < 2);
        scene.effect.stage.vignette = 0;
        scene.effect.stage.grain = 0.3f;
        const Picture grainy = scene.picture();
        QVERIFY(std::abs(mean(grainy, 0, 0, 150) - mean(plain, 0, 0, 150)) < 1);
        int other = 0;
        for (size_t i = 0; i < plain.pixels.size(); ++i) {
            other += std::abs(qGreen(plain.pixels[i]) - qGreen(grainy.pixels[i])) > 2 ? 1 : 0;
        }
        QVERIFY(other > int(plain.pixels.size()) / 2);
        scene.frame.step += 1;
        QVERIFY(scene.picture().pixels != grainy.pixels); // another grain in every picture
    }

    void additive_sum_of_n_dots_is_n_times_one() {
        Scene one(white());
        one.add({0.1f, 0.2f, 0}, 0.4f);
        Scene seven(white());
        for (int i = 0; i < 7; ++i) {
            seven.add({0.1f, 0.2f, 0}, 0.4f);
        }
        QVERIFY(sum(one.light()) > 10);
        QVERIFY(std::abs(sum(seven.light()) / sum(one.light()) - 7) < 1e-3);
    }

    // An ellipsoid seen from the side covers as much more as its two axes on the picture are longer, and
    // keeps its softness.
    void stretched_dots_cover_what_their_axes_say() {
        Scene ball(white());
        ball.add({}, 0.6f);
        for (const float tilt : {0.0f, 35.0f, 90.0f}) {
            Scene stretched(white());
            stretched.add({}, 0.6f);
            stretched.frame.sources[0].forms = {
                FrameForm::of(Quaternion::about({0, 0, 1}, tilt), {0.5f, 3, 1})};
            QVERIFY(std::abs(sum(stretched.light()) / sum(ball.light()) - 1.5) < 0.04);

            // How wide the light lies along the long axis against across it.
            double along = 0, across = 0;
            const double c = std::cos(tilt * M_PI / 180), s = std::sin(tilt * M_PI / 180);
            for (int j = 0; j < height; ++j) {
                for (int i = 0; i < width; ++i) {
                    const double x = i + 0.5 - width / 2.0, y = height / 2.0 - j - 0.5;
                    const auto value = double(at(stretched.renderer.light(), i, j));
                    along += value * (y * c - x * s) * (y * c - x * s);
                    across += value * (x * c + y * s) * (x * c + y * s);
                }
            }
            QVERIFY(std::abs(std::sqrt(along / across) / 6 - 1) < 0.06);
        }
    }

    void age_lens_shows_age_and_nothing_else() {
        const auto colour_at = [](float age_share, Colour look_colour) {
            Look look = white();
            look.colour_over_life.stops = {{0, look_colour}};
            Scene scene(look);
            scene.add({}, 1, age_share);
            scene.renderer.set_tint(DotTint::age);
            const LightPlanes& light = scene.light();
            return Vec3{at(light, width / 2, height / 2),
                        at(light, width / 2, height / 2, &LightPlanes::green),
                        at(light, width / 2, height / 2, &LightPlanes::blue)};
        };
        const Vec3 young = colour_at(0.02f, {0, 1, 0, 1}), old = colour_at(0.98f, {0, 1, 0, 1});
        QVERIFY(young.x > young.z && young.x > 1);
        QVERIFY(old.z > 3 * old.x && old.x < 0.1f);
        QCOMPARE(colour_at(0.5f, {0, 1, 0, 1}), colour_at(0.5f, {3, 0, 2, 1}));
    }

    void a_flake_seen_from_its_edge_is_thin() {
        Scene face_on(white()), edge_on(white());
        for (Scene* scene : {&face_on, &edge_on}) {
            scene->add({}, 0.8f);
        }
        face_on.frame.sources[0].forms = {FrameForm::of({}, {1, 1, 0.02f})};
        edge_on.frame.sources[0].forms = {FrameForm::of(Quaternion::about({1, 0, 0}, 90), {1, 1, 0.02f})};
        QVERIFY(sum(edge_on.light()) > 1);
        QVERIFY(sum(edge_on.light()) < 0.1 * sum(face_on.light()));
    }

    void dot_stands_where_the_camera_sees_it() {
        Scene scene(white());
        scene.add({0.5f, 0.3f, 0}, 0.1f);
        const LightPlanes& light = scene.light();
        double x = 0, y = 0, total = 0;
        for (int j = 0; j < height; ++j) {
            for (int i = 0; i < width; ++i) {
                const auto value = double(at(light, i, j));
                x += value * (i + 0.5);
                y += value * (j + 0.5);
                total += value;
            }
        }
        const double focal = height / 2.0 / std::tan(20 * M_PI / 180);
        QVERIFY(std::abs(x / total - (width / 2.0 + 0.5 / 5 * focal)) < 0.1);
        QVERIFY(std::abs(y / total - (height / 2.0 - 0.3 / 5 * focal)) < 0.1);
    }

    void dot_smaller_than_a_pixel_is_dimmed_not_enlarged() {
        Scene large(white());
        large.add({0, 0, 0}, 0.008f);
        Scene small(white());
        small.add({0, 0, 0}, 0.002f);
        QVERIFY(std::abs(sum(large.light()) / sum(small.light()) - 16) < 1);
    }

    void nearer_dot_covers_the_farther_one_in_either_order() {
        for (const bool near_first : {true, false}) {
            Look look = white(Blend::over);
            look.edge = 0;
            look.colour_over_life.stops = {{0, {1, 0, 0, 1}}, {1, {0, 1, 0, 1}}};
            Scene scene(look);
            if (near_first) {
                scene.add({0, 0, 1}, 1, 0);
            }
            scene.add({0, 0, -1}, 1, 1);
            if (!near_first) {
                scene.add({0, 0, 1}, 1, 0);
            }
            const LightPlanes& light = scene.light();
            QVERIFY(at(light, width / 2, height / 2, &LightPlanes::red) > 0.95f);
            QVERIFY(at(light, width / 2, height / 2, &LightPlanes::green) < 0.05f);
        }
    }

    void surfaces_hide_what_is_behind_them() {
        const Box box{{.colour = {0, 0, 0, 1}}, {{0, 0, 1}, {}, {}}, {4, 4, 0.5f}};
        Scene behind(white(), {box});
        behind.add({0, 0, 0}, 0.5f);
        QCOMPARE(sum(behind.light()), 0.0);
        Scene before(white(), {box});
        before.add({0, 0, 2}, 0.5f);
        QVERIFY(sum(before.light()) > 10);
    }

    void surface_fade_is_as_wide_as_stated() {
        const Plane wall{{.colour = {0, 0, 0, 1}}, {}, {0, 0, 1}};
        const auto brightness = [&](float distance) {
            Look look = white();
            look.surface_fade = 0.4f;
            Scene scene(look, {wall});
            scene.add({0, 0, distance}, 0.2f);
            return double(at(scene.light(), width / 2, height / 2));
        };
        const double full = brightness(0.6f);
        QVERIFY(full > 0.5);
        QVERIFY(std::abs(brightness(0.2f) / full - 0.5) < 0.05);
    }

    void lit_plane_has_the_brightness_of_lambert() {
        Plane wall{{.colour = {0.5f, 0.5f, 0.5f, 1}}, {}, {0, 0, 1}};
        Scene scene(white(), {wall});
        scene.effect.stage.sun_strength = 2;
        scene.effect.stage.sun_colour = {1, 1, 1, 1};
        scene.effect.stage.sky_strength = 0;
        scene.effect.stage.mist = 0;
        const auto brightness = [&](float sun_height) {
            scene.effect.stage.sun_azimuth = 0;
            scene.effect.stage.sun_height = sun_height;
            return sum(scene.light());
        };
        // The wall faces the camera and, at height 0, the sun.
        QVERIFY(std::abs(brightness(60) / brightness(0) - 0.5) < 0.05);
    }

    void box_casts_its_shadow_on_the_ground() {
        Scene scene(white(), {Plane{}, Box{{}, {{0, 0.5f, 0}, {}, {}}, {1, 1, 1}}});
        scene.effect.stage.sun_strength = 3;
        scene.effect.stage.sun_azimuth = 90; // from +x
        scene.effect.stage.sun_height = 45;
        scene.camera = {{0, 0, 0}, 6, 0, 60, 40};
        const LightPlanes& light = scene.light();
        // A point of the ground 0.9 m to the left lies in shadow, its mirror image does not.
        const double focal = height / 2.0 / std::tan(20 * M_PI / 180);
        const int left = int(width / 2.0 - 0.9 / 6 * focal), right = int(width / 2.0 + 0.9 / 6 * focal);
        QVERIFY(at(light, left, height / 2) < 0.3f * at(light, right, height / 2));
    }

    void the_shadow_of_a_lamp_goes_along_with_what_casts_it() {
        Ball ball;
        ball.position = {0, 1.2f, 0};
        ball.radius = 0.3f;
        Scene scene(white(), {Plane{}, ball});
        FrameLight lamp;
        lamp.position = {-1.5f, 1.6f, 0};
        lamp.direction = {0, -1, 0};
        lamp.light = {20, 20, 20};
        lamp.reach = 20;
        scene.frame.lights = {lamp};
        scene.camera = {{3, 0, 0}, 12, 0, 60, 40};
        Renderer moving, fresh;
        const std::vector<float> before = settled(scene, moving);
        // Its shadow lies metres away from it, and leaves what it hid.
        scene.frame.colliders.back().row.position.z = 0.8f;
        const std::vector<float> after = settled(scene, moving), expected = settled(scene, fresh);
        const auto difference = [](const std::vector<float>& a, const std::vector<float>& b) {
            float most = 0;
            for (size_t i = 0; i < a.size(); ++i) {
                most = std::max(most, std::fabs(a[i] - b[i]));
            }
            return most;
        };
        QVERIFY(difference(before, expected) > 0.05f);
        QVERIFY(difference(after, expected) < 1e-4f);
    }

    // What has to be drawn anew for a lamp's sake is its own cost, not the stage's; at rest it has none.
    void a_lamp_costs_what_is_drawn_for_its_sake() {
        Light lamp;
        lamp.position = {-1, 1.5f, 0};
        lamp.reach = 5;
        Light still = lamp;
        still.position = {2, 1, 0};
        Scene scene(white(), {Plane{}, lamp, still});
        scene.camera = {{0, 0, 0}, 9, 0, 40, 40};
        QCOMPARE(scene.frame.lights.size(), size_t(2));
        settled(scene, scene.renderer);
        const auto cost = [&](size_t i) {
            return scene.renderer.meters().element_ms.at(scene.frame.lights[i].element);
        };
        draw(scene, scene.renderer);
        QCOMPARE(cost(0) + cost(1), 0.0);
        scene.frame.lights[0].position.x += 0.1f;
        draw(scene, scene.renderer);
        const DrawMeters& meters = scene.renderer.meters();
        QVERIFY(cost(0) > 0);
        QCOMPARE(cost(1), 0.0);
        QCOMPARE(cost(0), meters.lamps_ms);
        QVERIFY(meters.lamps_ms <= meters.stage_ms);
        // What moves through its light has the tiles that it is in.
        scene.frame.lights[0].position.x += 0.1f;
        scene.frame.lights[1].light = scene.frame.lights[1].light * 0.5f;
        draw(scene, scene.renderer);
        QVERIFY(cost(0) > 0 && cost(1) > 0);
        QVERIFY(std::abs(cost(0) + cost(1) - meters.lamps_ms) < 1e-9);
    }

    // Whoever moves past a box does not blur its edges: only what changes is drawn with fewer samples.
    void edges_stay_sharp_while_something_moves_beside_them() {
        Box box;
        box.size = {0.6f, 0.6f, 0.6f};
        box.turn = {0, 30, 0};
        box.position = {-0.4f, 0.3f, 0};
        Ball ball;
        ball.position = {0.7f, 0.2f, 0};
        ball.radius = 0.15f;
        Scene scene(white(), {Plane{}, box, ball});
        scene.effect.stage.sun_strength = 2;
        scene.effect.stage.sun_azimuth = 200;
        scene.effect.stage.sun_height = 50;
        scene.camera = {{0, 0.2f, 0}, 4, 0, 30, 40};
        Renderer moving, fresh;
        settled(scene, moving);
        for (int i = 0; i < 6; ++i) {
            scene.frame.colliders.back().row.position.z += 0.03f;
            draw(scene, moving);
        }
        const std::vector<float> seen = red_of(moving), expected = settled(scene, fresh);
        int off = 0, off_at_ball = 0;
        for (int i = 0; i < width * height; ++i) {
            const float most = 0.05f * expected[size_t(i)];
            const bool is_off = std::fabs(seen[size_t(i)] - expected[size_t(i)]) > most;
            (i % width < width / 2 ? off : off_at_ball) += is_off ? 1 : 0;
        }
        QVERIFY2(off < 20, qPrintable(QString::number(off)));
        QVERIFY2(off_at_ball > 20, qPrintable(QString::number(off_at_ball)));
    }

    void exposure_doubles_the_light_per_stop() {
        Scene scene(white());
        scene.effect.stage.sky_top = scene.effect.stage.sky_horizon = {0.02f, 0.02f, 0.02f, 1};
        scene.effect.stage.contrast = 1;
        const auto linear = [&](float stops) {
            scene.effect.stage.exposure = stops;
            const double code = (scene.picture().pixels[100] & 255u) / 255.0;
            const double tone = code <= 0.04045 ? code / 12.92 : std::pow((code + 0.055) / 1.055, 2.4);
            return tone / (1 - tone); // undoes the shoulder of the tone curve, nearly
        };
        QVERIFY(std::abs(linear(1) / linear(0) - 2) < 0.15);
        QVERIFY(std::abs(linear(2) / linear(1) - 2) < 0.15);
    }

    void bloom_spreads_light_that_is_above_the_threshold() {
        Scene scene(white());
        scene.add({0, 0, 0}, 0.2f);
        scene.effect.stage.bloom = 0.5f;
        scene.effect.stage.bloom_threshold = 0.1f;
        QVERIFY(at(scene.light(), width / 2 + 25, height / 2) > 0);
        scene.effect.stage.bloom_threshold = 100;
        QCOMPARE(at(scene.light(), width / 2 + 25, height / 2), 0.0f);
    }

    void lit_dots_take_the_colour_of_the_light() {
        Look look = white();
        look.lit = 1;
        Scene scene(look);
        scene.add({0, 0, 0}, 0.4f);
        scene.effect.stage.sun_strength = 2;
        scene.effect.stage.sun_height = -60; // below, so that the sky shows no glow here
        scene.effect.stage.sun_colour = {1, 0, 0, 1};
        const LightPlanes& light = scene.light();
        QVERIFY(at(light, width / 2, height / 2, &LightPlanes::red) > 0.3f);
        QVERIFY(at(light, width / 2, height / 2, &LightPlanes::blue) < 0.01f);
    }

    void picture_is_the_same_on_one_and_two_threads() {
        const Effect effect = *read_effect(EMBER_DEMO).effect;
        const Simulation simulation = sample::run(effect, 2);
        Frame frame;
        simulation.write_frame(frame);
        const auto drawn = [&](size_t threads) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            Renderer renderer;
            Picture picture;
            renderer.draw(frame, effect, camera_of(effect.stage), 640, 400, picture);
            return picture.pixels;
        };
        QVERIFY(drawn(1) == drawn(2));
    }

    void instruction_sets_draw_the_same_picture_but_for_rounding() {
        const Effect effect = *read_effect(EMBER_DEMO).effect;
        const Simulation simulation = sample::run(effect, 2);
        Frame frame;
        simulation.write_frame(frame);
        Picture a, b;
        Renderer(Isa::v2).draw(frame, effect, camera_of(effect.stage), 640, 400, a);
        Renderer(best_isa()).draw(frame, effect, camera_of(effect.stage), 640, 400, b);
        int different = 0;
        for (size_t i = 0; i < a.pixels.size(); ++i) {
            different += std::abs(int(a.pixels[i] & 255u) - int(b.pixels[i] & 255u)) > 2 ? 1 : 0;
        }
        QVERIFY2(different < 640 * 400 / 500, qPrintable(QString::number(different)));
    }

    void edges_of_the_stage_get_smoother_and_then_stay() {
        Scene scene(white(), {Box{{}, {{0, 0, 0}, {10, 20, 30}, {}}, {1, 1, 1}}});
        scene.effect.stage.sun_strength = 3;
        Renderer renderer;
        Picture first, last, after;
        renderer.draw(scene.frame, scene.effect, scene.camera, width, height, first);
        QVERIFY(!renderer.is_settled());
        for (int i = 0; i < Renderer::most_stage_samples; ++i) {
            renderer.draw(scene.frame, scene.effect, scene.camera, width, height, last);
        }
        QVERIFY(renderer.is_settled());
        renderer.draw(scene.frame, scene.effect, scene.camera, width, height, after);
        QVERIFY(first.pixels != last.pixels);
        QVERIFY(last.pixels == after.pixels);
    }

    void odd_sizes_are_drawn_data() {
        QTest::addColumn<int>("w");
        QTest::addColumn<int>("h");
        QTest::newRow("one pixel") << 1 << 1;
        QTest::newRow("thin") << 3 << 700;
        QTest::newRow("odd") << 333 << 77;
        QTest::newRow("across tiles") << 129 << 65;
    }
    void odd_sizes_are_drawn() {
        QFETCH(int, w);
        QFETCH(int, h);
        const Effect effect = *read_effect(EMBER_DEMO).effect;
        const Simulation simulation = sample::run(effect, 1);
        Frame frame;
        simulation.write_frame(frame);
        Renderer renderer;
        Picture picture;
        renderer.draw(frame, effect, camera_of(effect.stage), w, h, picture);
        QCOMPARE(picture.pixels.size(), size_t(w * h));
        for (const uint32_t pixel : picture.pixels) {
            QCOMPARE(pixel >> 24, 255u);
        }
    }

    void png_holds_the_picture() {
        Scene scene(white());
        scene.add({0, 0, 0}, 0.5f);
        const Picture picture = scene.picture();
        QTemporaryDir folder;
        QVERIFY(!write_png(picture, folder.filePath("p.png").toStdString()));
        const QImage read(folder.filePath("p.png"));
        QCOMPARE(read.size(), QSize(width, height));
        QCOMPARE(read.pixel(width / 2, height / 2), picture.pixels[size_t(height / 2 * width + width / 2)]);
        QVERIFY(write_png(picture, "/proc/nowhere/p.png"));
    }
};

QTEST_APPLESS_MAIN(TestRenderer)
#include "tst_renderer.moc"
