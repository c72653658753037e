#include "render/png.h"
#include "render/renderer.h"

#include <oneapi/tbb/global_control.h>

#include <QImage>
#include <QTemporaryDir>
#include <QtTest>

#include "../core/sample_effects.h"
#include "core/effect/effect_file.h"

#include <numeric>

using namespace ember;

namespace {

constexpr int width = 200;
constexpr int height = 160;

// A black stage with one look; particles are placed by hand. The camera looks at the origin from +z.
struct Scene {
    Effect effect;
    Frame frame;
    Camera camera = {{0, 0, 0}, 5, 0, 0, 40};
    Renderer renderer;

    explicit Scene(Look look, const std::vector<ElementBody>& influences = {}) {
        look.id = "soft-dots";
        effect = sample::effect_of(sample::single_particle({}), influences);
        effect.looks = {look};
        effect.stage.sky_top = effect.stage.sky_horizon = {0, 0, 0, 1};
        effect.stage.sun_strength = 0;
        effect.stage.bloom = 0;
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        simulation.write_frame(frame); // the colliders, where they stand
        frame.sources.resize(1);
        frame.sources[0].largest_size = 1;
    }

    void add(Vec3 place, float size, float age_share = 0) { frame.sources[0].add({place}, age_share, size); }

    const LightPlanes& light() {
        Picture drawn;
        renderer.draw(frame, effect, camera, width, height, drawn);
        return renderer.light();
    }

    Picture picture() {
        Picture result;
        renderer.draw(frame, effect, camera, width, height, result);
        return result;
    }
};

float at(const LightPlanes& light, int x, int y, FloatPlane LightPlanes::*plane = &LightPlanes::red) {
    return (light.*plane)[size_t(y) * size_t(light.stride) + size_t(x)];
}

double sum(const LightPlanes& light) {
    double total = 0;
    for (int y = 0; y < light.height; ++y) {
        for (int x = 0; x < light.width; ++x) {
            total += double(at(light, x, y));
        }
    }
    return total;
}

Look white(Blend blend = Blend::add) {
    Look look;
    look.blend = blend;
    look.surface_fade = 0;
    return look;
}

} // namespace

class TestRenderer : public QObject {
    Q_OBJECT

  private slots:
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
