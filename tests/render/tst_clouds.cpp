// Smoke as a picture: what it takes of the light and what it sends, before and behind other things.
#include "../core/sample_effects.h"

#include "render/renderer.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

#include <cmath>

using namespace ember;

namespace {

constexpr int width = 200, height = 140;

// An even cloud of a metre each way, in the dark but for what a test adds.
Effect cloud_effect() {
    Effect effect = starter_effect();
    effect.elements.clear();
    Smoke smoke;
    smoke.position = {0, 0, 0};
    smoke.size = {1, 1, 1};
    smoke.resolution = 16;
    smoke.sides = SmokeSides::closed;
    smoke.absorption = 0.7f;
    smoke.colour = {0, 0, 0, 1};
    smoke.detail = 0.5f;
    smoke.shadow = 0;
    effect.elements = {{.id = "smoke", .name = "Smoke", .body = smoke}};
    effect.stage = {};
    effect.stage.bloom = 0;
    effect.stage.mist = 0;
    effect.stage.sun_strength = 0;
    effect.stage.sky_strength = 1;
    effect.stage.sky_top = effect.stage.sky_horizon = {0.5f, 0.5f, 0.5f, 1};
    return effect;
}

void put_out(Effect& effect) {
    effect.stage.sky_top = effect.stage.sky_horizon = {0, 0, 0, 1};
}

Smoke& smoke_of(Effect& effect) {
    return std::get<Smoke>(effect.elements[0].body);
}

Frame frame_of(const Effect& effect, float density, float heat = 0) {
    Frame frame;
    frame.effect = std::make_shared<const Effect>(effect);
    const auto held = std::make_shared<FrameSmoke>();
    FrameSmoke& smoke = *held;
    smoke.size = size_of(std::get<Smoke>(effect.elements[0].body));
    smoke.density.assign(smoke.size.cells(), density);
    smoke.heat.assign(heat > 0 ? smoke.size.cells() : 0, heat);
    frame.smokes = {held};
    return frame;
}

struct Shown {
    Renderer renderer;
    Picture picture;

    Shown(const Frame& frame, const Effect& effect) { draw(frame, effect); }
    void draw(const Frame& frame, const Effect& effect) {
        do {
            renderer.draw(frame, effect, {{0, 0, 0}, 6, 0, 0, 30}, width, height, picture);
        } while (!renderer.is_settled());
    }
    float at(int x, int y) const {
        return renderer.light().green[size_t(y) * size_t(renderer.light().stride) + size_t(x)];
    }
    float middle() const { return at(width / 2, height / 2); }
};

float middle_of(const Effect& effect, float density, float heat = 0) {
    return Shown(frame_of(effect, density, heat), effect).middle();
}

} // namespace

class TestClouds : public QObject {
    Q_OBJECT

  private slots:
    void a_lamp_in_smoke_costs_its_way_through_it() {
        Effect effect = cloud_effect();
        smoke_of(effect).shadow = 1;
        Light lamp;
        effect.elements.push_back({.id = "lamp", .name = "Lamp", .body = lamp});
        Frame frame = frame_of(effect, 1);
        frame.placements.resize(2);
        const Shown dark(frame, effect);
        QCOMPARE(dark.renderer.meters().element_ms.at(1), 0.0);
        FrameLight light;
        light.position = {0, 0.5f, 1.5f};
        light.light = {5, 5, 5};
        light.reach = 6;
        light.element = 1;
        frame.lights = {light};
        const Shown lit(frame, effect);
        const DrawMeters& meters = lit.renderer.meters();
        QVERIFY(meters.element_ms.at(1) > 0 && meters.element_ms.at(0) > 0);
        QVERIFY(meters.element_ms.at(0) + meters.element_ms.at(1) < meters.smoke_ms + meters.lamps_ms + 1e-6);
    }

    // A. Beer: light falls by a factor for each metre.
    void a_metre_of_smoke_takes_what_it_says() {
        const Effect effect = cloud_effect();
        const float clear = middle_of(effect, 0);
        QVERIFY(clear > 0.3f);
        for (const float density : {0.5f, 1.0f, 3.0f}) {
            const float expected = std::exp(-density * 0.7f);
            const float left = middle_of(effect, density) / clear;
            QVERIFY2(std::fabs(left / expected - 1) < 0.04f,
                     qPrintable(QString::number(double(left / expected))));
        }
    }

    // Only tiles that smoke is before are mixed with it, and none once it is gone.
    void smoke_that_is_gone_leaves_nothing() {
        const Effect effect = cloud_effect();
        const Shown clear(frame_of(effect, 0), effect);
        Shown shown(frame_of(effect, 3), effect);
        QVERIFY(shown.middle() < 0.5f * clear.middle());
        QCOMPARE(shown.at(2, 2), clear.at(2, 2));
        shown.draw(frame_of(effect, 0), effect);
        QCOMPARE(shown.picture.pixels, clear.picture.pixels);
        Frame without = frame_of(effect, 0);
        without.smokes.clear();
        shown.draw(frame_of(effect, 3), effect);
        QVERIFY(shown.picture.pixels != clear.picture.pixels);
        shown.draw(without, effect);
        QCOMPARE(shown.picture.pixels, clear.picture.pixels);
    }

    // White smoke under an even sky of its own brightness is not seen at all.
    void white_smoke_in_an_even_sky_is_not_seen() {
        Effect effect = cloud_effect();
        smoke_of(effect).colour = {1, 1, 1, 1};
        const float clear = middle_of(effect, 0);
        QVERIFY(std::fabs(middle_of(effect, 4) / clear - 1) < 0.03f);
    }

    void hot_smoke_glows_in_the_dark() {
        Effect effect = cloud_effect();
        put_out(effect);
        Smoke& smoke = smoke_of(effect);
        smoke.glow = 2;
        smoke.glow_ramp = {{{0, {0, 0, 0, 1}}, {1, {1, 1, 1, 1}}}};
        smoke.glow_heat = 100;
        smoke.absorption = 1e-3f;
        // Along a metre so thin that it hides nothing of itself.
        QVERIFY(std::fabs(middle_of(effect, 1, 50) - 1) < 0.05f);
        QVERIFY(std::fabs(middle_of(effect, 1, 100) - 2) < 0.1f);
        QVERIFY(middle_of(effect, 1) < 1e-3f);
    }

    void smoke_shades_itself() {
        Effect effect = cloud_effect();
        put_out(effect);
        effect.stage.sun_strength = 3;
        effect.stage.sun_height = 89;
        Smoke& smoke = smoke_of(effect);
        smoke.colour = {1, 1, 1, 1};
        smoke.absorption = 5;
        smoke.shadow = 1;
        const Shown shown(frame_of(effect, 1), effect);
        // A metre is 37 pixels or so: near its top, in the middle, near its foot.
        const float top = shown.at(width / 2, height / 2 - 15), foot = shown.at(width / 2, height / 2 + 15);
        QVERIFY(top > 0.05f && foot < top * 0.3f);
        smoke.shadow = 0;
        const Shown even(frame_of(effect, 1), effect);
        QVERIFY(even.at(width / 2, height / 2 + 15) > even.at(width / 2, height / 2 - 15) * 0.9f);
    }

    void what_stands_before_the_sun_shades_smoke() {
        Effect effect = cloud_effect();
        put_out(effect);
        effect.stage.sun_strength = 3;
        effect.stage.sun_height = 89;
        smoke_of(effect).colour = {1, 1, 1, 1};
        Frame frame = frame_of(effect, 1);
        const auto sides = [&] {
            const Shown shown(frame, effect);
            return std::pair(shown.at(width / 2 - 10, height / 2), shown.at(width / 2 + 10, height / 2));
        };
        const auto [left, right] = sides();
        QVERIFY(left > 0.05f && std::fabs(left / right - 1) < 0.1f);
        // A box high over the left half, out of the picture.
        FrameCollider roof;
        roof.row.kind = COLLIDER_BOX;
        roof.row.position = {-0.5f, 5, 0};
        roof.row.half_size = {0.5f, 0.1f, 2};
        roof.row.axis_x = {1, 0, 0};
        roof.row.axis_y = {0, 1, 0};
        roof.row.axis_z = {0, 0, 1};
        frame.colliders = {roof};
        const auto [shaded, lit] = sides();
        QVERIFY2(shaded < 0.25f * left,
                 qPrintable(QString("%1 of %2").arg(double(shaded)).arg(double(left))));
        QVERIFY(std::fabs(lit / right - 1) < 0.1f);
    }

    void dots_have_just_the_smoke_before_them_that_is_before_them() {
        Effect effect = cloud_effect();
        put_out(effect);
        Effect with_dot = effect;
        with_dot.elements.push_back({.id = "e", .name = "Dots", .body = sample::single_particle({})});
        std::get<Emitter>(with_dot.elements[1].body).look = with_dot.looks[0].id;
        with_dot.looks[0].colour_over_life.stops = {{0, {1, 1, 1, 1}}};
        const auto light_of_dot = [&](float z, float density) {
            Frame frame = frame_of(with_dot, density);
            frame.sources.resize(1);
            frame.sources[0].element = 1;
            frame.sources[0].largest_size = 0.3f;
            frame.sources[0].add({{0, 0, z}}, 0.5f, 0.3f);
            return Shown(frame, with_dot).middle();
        };
        for (const auto& [z, metres] : {std::pair(0.9f, 0.0f), {0.0f, 0.5f}, {-0.9f, 1.0f}}) {
            const float kept = light_of_dot(z, 2) / light_of_dot(z, 0);
            const float expected = std::exp(-2 * 0.7f * metres);
            QVERIFY2(
                std::fabs(kept / expected - 1) < 0.08f,
                qPrintable(QString("%1 of %2 at %3").arg(double(kept)).arg(double(expected)).arg(double(z))));
        }
    }

    void the_picture_is_the_same_on_one_thread_and_two() {
        Effect effect = cloud_effect();
        effect.stage.sun_strength = 2;
        smoke_of(effect).colour = {1, 0.8f, 0.6f, 1};
        smoke_of(effect).shadow = 1;
        std::vector<uint32_t> pictures[2];
        for (const int threads : {1, 2}) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, size_t(threads));
            pictures[threads - 1] = Shown(frame_of(effect, 1), effect).picture.pixels;
        }
        QVERIFY(pictures[0] == pictures[1]);
    }

    // In a run a cloud keeps its light until it moves on; what an artist turns is seen at once all the same.
    void a_cloud_is_lit_anew_when_it_moves_on_or_its_look_changes() {
        Effect effect = cloud_effect();
        smoke_of(effect).colour = {1, 1, 1, 1};
        Frame frame = frame_of(effect, 2);
        Shown shown(frame, effect);
        const float before = shown.middle();
        const auto seen = [&](float sky) {
            Effect now = effect;
            now.stage.sky_strength = sky;
            Picture picture;
            // The stage's own light changes with the sky: only a cloud that hides it tells of its own.
            shown.renderer.draw(frame, now, {{0, 0, 0}, 6, 0, 0, 30}, width, height, picture);
            return shown.middle();
        };
        smoke_of(effect).absorption = 40; // nothing behind it is seen
        frame.step = 1;
        const float thick = seen(1);
        QVERIFY(std::fabs(thick / before - 1) < 0.05f);
        frame.step = 2; // between two moves
        QCOMPARE(seen(3), thick);
        QVERIFY(seen(3) > 2 * thick); // no step on: it rests, or is stepped by hand
        frame.step = 3;
        const auto moved = std::make_shared<FrameSmoke>(*frame.smokes[0]);
        moved->moves = 1;
        frame.smokes = {moved};
        QVERIFY(std::fabs(seen(1) / thick - 1) < 0.02f);
        frame.step = 4;
        smoke_of(effect).colour = {0.2f, 0.2f, 0.2f, 1};
        QVERIFY(seen(1) < 0.5f * thick);
    }

    void a_camera_within_the_smoke_sees_it() {
        Effect effect = cloud_effect();
        smoke_of(effect).size = {20, 20, 20};
        Renderer renderer;
        Picture picture;
        renderer.draw(frame_of(effect, 3), effect, {{0, 0, 0}, 1, 0, 0, 30}, width, height, picture);
        QVERIFY(renderer.light().green[size_t(70) * size_t(renderer.light().stride) + 100] < 0.05f);
    }
};

QTEST_APPLESS_MAIN(TestClouds)
#include "tst_clouds.moc"
