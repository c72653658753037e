// Cards, cut-outs, bodies, skins, surface layers, lamps and the mirror, by what is on the picture.
#include "scene.h"

#include "core/geometry/blended_surface.h"

#include <oneapi/tbb/global_control.h>

#include <QTemporaryDir>
#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::scene;

namespace {

constexpr float metres_per_pixel = 2 * 5 * 0.36397f / height; // at the origin: the tangent of 20 degrees

Look card(Blend blend = Blend::over) {
    Look look = white(blend);
    look.drawn_as = Drawing::cards;
    look.edge = 0;
    return look;
}

Look body(MeshSet set = MeshSet::cubes) {
    Look look = white();
    look.drawn_as = Drawing::meshes;
    look.mesh_set = set;
    look.shine = 0;
    look.own_light = 1;
    return look;
}

// How far lit pixels reach along the middle row and column.
QSize lit(const LightPlanes& light, float least = 0.5f) {
    QSize size(0, 0);
    for (int x = 0; x < width; ++x) {
        size.rwidth() += at(light, x, height / 2) > least ? 1 : 0;
    }
    for (int y = 0; y < height; ++y) {
        size.rheight() += at(light, width / 2, y) > least ? 1 : 0;
    }
    return size;
}

// With texture layers a scene needs numbers, as frames of cards and bodies have them.
void number(Scene& scene) {
    auto& source = scene.frame.sources[0];
    for (uint32_t i = uint32_t(source.numbers.size()); i < source.particles.size(); ++i) {
        source.numbers.push_back(i);
    }
}

} // namespace

class TestLooks : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

  private slots:
    void a_card_is_as_wide_and_high_as_it_says_and_turns_in_its_plane() {
        Look look = card();
        look.card_height = 2;
        Scene upright(look);
        upright.add({}, 0.5f);
        number(upright);
        const QSize size = lit(upright.light());
        QVERIFY(std::abs(float(size.width()) * metres_per_pixel - 0.5) < 2 * metres_per_pixel);
        QVERIFY(std::abs(float(size.height()) * metres_per_pixel - 1.0) < 2 * metres_per_pixel);
        look.roll = {90, 90};
        Scene lying(look);
        lying.add({}, 0.5f);
        number(lying);
        const QSize turned = lit(lying.light());
        QVERIFY(std::abs(turned.width() - size.height()) <= 2 &&
                std::abs(turned.height() - size.width()) <= 2);
        look.roll = {0, 0};
        look.roll_over_life = {180, 180}; // half of it is a right angle
        Scene later(look);
        later.add({}, 0.5f, 0.5f);
        number(later);
        QVERIFY(std::abs(lit(later.light()).width() - size.height()) <= 2);
    }

    void cards_stand_along_their_motion_or_across_a_direction() {
        Look look = card();
        look.card_height = 3;
        look.card_faces = CardFaces::motion;
        Scene scene(look);
        scene.add({}, 0.3f);
        number(scene);
        scene.frame.sources[0].fastest = 1;
        scene.frame.sources[0].motions = {FrameMotion::of({1, 0, 0}, 1)};
        QSize size = lit(scene.light());
        QVERIFY(size.width() > 2 * size.height());
        // Seen at 60 degrees a square that lies across a direction is half as wide.
        look.card_height = 1;
        look.card_faces = CardFaces::direction;
        look.card_direction = {std::sin(std::numbers::pi_v<float> / 3), 0, 0.5f};
        Scene slanted(look);
        slanted.add({}, 0.6f);
        number(slanted);
        size = lit(slanted.light());
        QVERIFY(std::abs(size.width() - 0.5 * size.height()) <= 2);
    }

    void cards_that_cover_lie_in_order_of_depth_with_dots_and_each_other() {
        Look look = card();
        look.colour_over_life = {{{0, {1, 0, 0, 1}}, {1, {0, 0, 1, 1}}}};
        Scene scene(look);
        scene.add({0, 0, 1}, 0.3f, 0); // red, in front
        scene.add({0, 0, 0}, 0.3f, 1);
        scene.add({0, 0, -1}, 0.3f, 0.5f);
        number(scene);
        const LightPlanes& light = scene.light();
        QVERIFY(at(light, width / 2, height / 2) > 0.95f);
        QVERIFY(at(light, width / 2, height / 2, &LightPlanes::blue) < 0.05f);
    }

    // The sort keeps equal ones in order, however many there are.
    void sorting_by_depth_is_stable() {
        for (const uint32_t count : {7u, 200u, 5000u}) {
            std::vector<uint64_t> keys;
            for (uint32_t i = 0; i < count; ++i) {
                keys.push_back(depth_key(1 + float(i * 7919u % 50), i));
            }
            sort_far_to_near(keys);
            for (uint32_t i = 1; i < count; ++i) {
                const float a = 1 + float(uint32_t(keys[i - 1]) * 7919u % 50);
                const float b = 1 + float(uint32_t(keys[i]) * 7919u % 50);
                QVERIFY(a > b || (a == b && uint32_t(keys[i - 1]) < uint32_t(keys[i])));
            }
        }
    }

    void what_is_cut_out_is_hard_and_hides_what_is_behind_whatever_the_order() {
        for (const bool is_far_first : {false, true}) {
            Look look = card(Blend::cut_out);
            look.colour_over_life = {{{0, {1, 0, 0, 1}}, {1, {0, 0, 1, 1}}}};
            look.edge = 0.5f;
            Scene scene(look);
            scene.add({0, 0, is_far_first ? -0.5f : 0.5f}, 0.5f, is_far_first ? 1 : 0);
            scene.add({0, 0, is_far_first ? 0.5f : -0.5f}, 0.5f, is_far_first ? 0 : 1);
            number(scene);
            const LightPlanes& light = scene.light();
            QCOMPARE(at(light, width / 2, height / 2), 1.0f);
            for (int x = 0; x < width; ++x) { // nothing in between
                const float red = at(light, x, height / 2);
                QVERIFY(red == 0 || red == 1);
            }
        }
        // Half opaque is the limit.
        Look faint = card(Blend::cut_out);
        faint.opacity = 0.45f;
        Scene unseen(faint);
        unseen.add({}, 0.5f);
        QCOMPARE(sum(unseen.light()), 0.0);
    }

    void a_body_is_as_large_as_its_particle_and_lit_by_the_sun_from_its_side() {
        Look look = body();
        Scene scene(look);
        scene.frame.sources[0].forms = {FrameForm::of({{0, 0, 0}, 1}, {1, 1, 1})};
        scene.add({}, 0.5f);
        number(scene);
        // Its front is nearer to the camera than the middle by half its side.
        const QSize size = lit(scene.light());
        QVERIFY(std::abs(float(size.width()) * metres_per_pixel * (4.75f / 5) - 0.5f) < 3 * metres_per_pixel);
        scene.frame.sources[0].forms = {FrameForm::of({{0, 0, 0}, 1}, {2, 1, 1})};
        QVERIFY(std::abs(lit(scene.light()).width() - 2 * size.width()) < 6);

        look.own_light = 0;
        Scene sunny(look);
        sunny.frame.sources[0].forms = {FrameForm::of({{0, 0, 0}, 1}, {1, 1, 1})};
        sunny.add({}, 0.5f);
        number(sunny);
        sunny.effect.stage.sun_strength = 1;
        sunny.effect.stage.sun_colour = {1, 1, 1, 1};
        sunny.effect.stage.sun_azimuth = 0; // from behind the camera
        sunny.effect.stage.sun_height = 60;
        const float by_sun = at(sunny.light(), width / 2, height / 2);
        QVERIFY2(std::abs(by_sun - 0.5f) < 0.01f, qPrintable(QString::number(double(by_sun)))); // the cosine
        sunny.effect.stage.sun_azimuth = 180;
        sunny.effect.stage.sun_height = 0;
        QCOMPARE(at(sunny.light(), width / 2, height / 2), 0.0f);
    }

    void bodies_hide_what_is_behind_them_and_dots_fade_before_them() {
        Scene scene(body());
        scene.add({0, 0, 0}, 1);
        scene.frame.sources.push_back(scene.frame.sources[0]);
        Element second = scene.effect.elements[0];
        second.id = "second";
        std::get<Emitter>(second.body).look = "other";
        scene.effect.elements.push_back(second);
        Look dots = white();
        dots.id = "other";
        dots.colour_over_life = {{{0, {0, 0, 1, 1}}}};
        dots.edge = 0.05f;
        scene.effect.looks.push_back(dots);
        auto made = std::make_shared<Effect>(scene.effect);
        scene.frame.effect = made;
        FrameSource& source = scene.frame.sources[1];
        source = {};
        source.element = scene.effect.elements.size() - 1;
        source.largest_size = 1;
        source.add({{0, 0, -1}}, 0, 0.4f);
        number(scene);
        float whole = scene.effect.looks[0].own_light;
        QCOMPARE(at(scene.light(), width / 2, height / 2, &LightPlanes::blue), whole); // the body's own
        source.blocks.clear();
        source.particles.clear();
        source.add({{0, 0, 2}}, 0, 0.4f);
        QVERIFY(at(scene.light(), width / 2, height / 2, &LightPlanes::blue) > 1.9f);
    }

    void far_bodies_take_fewer_triangles_and_meshes_of_files_become_coarse() {
        Mesh ball;
        constexpr int rings = 40;
        for (int i = 0; i <= rings; ++i) {
            for (int j = 0; j < 2 * rings; ++j) {
                const float polar = std::numbers::pi_v<float> * float(i) / rings;
                const float turn = std::numbers::pi_v<float> * float(j) / rings;
                ball.corners.push_back(
                    {std::sin(polar) * std::cos(turn), std::cos(polar), std::sin(polar) * std::sin(turn)});
                if (i > 0) {
                    const auto k = [&](int a, int b) { return uint32_t(a * 2 * rings + b % (2 * rings)); };
                    ball.triangles.push_back({k(i - 1, j), k(i - 1, j + 1), k(i, j)});
                    ball.triangles.push_back({k(i - 1, j + 1), k(i, j + 1), k(i, j)});
                }
            }
        }
        const BodyLevels levels = levels_of(ball);
        QVERIFY(levels.size() >= 3);
        size_t before = SIZE_MAX;
        for (const float radius : {400.0f, 60.0f, 15.0f, 4.0f, 1.0f}) {
            const size_t faces = level_for(levels, radius).faces.size();
            QVERIFY(faces <= before);
            before = faces;
        }
        QVERIFY(before * 20 < ball.triangles.size());
        for (const Body& level : levels) { // each is still about a ball of diameter 1
            for (const Vec3& corner : level.corners) {
                QVERIFY(length(corner) < 0.88f);
            }
        }
    }

    void ready_made_bodies_are_closed_and_their_faces_look_outward() {
        for (const MeshSet set : {MeshSet::cubes, MeshSet::crystals, MeshSet::shards, MeshSet::pebbles}) {
            for (const BodyLevels& levels : ready_bodies(set)) {
                for (const Body& level : levels) {
                    double volume = 0;
                    for (const BodyFace& face : level.faces) {
                        QVERIFY(face.beyond[0] >= 0 && face.beyond[1] >= 0 && face.beyond[2] >= 0);
                        const Vec3 &a = level.corners[face.corners[0]], &b = level.corners[face.corners[1]],
                                   &c = level.corners[face.corners[2]];
                        volume += double(dot(a, cross(b, c))) / 6;
                    }
                    QVERIFY(volume > 0.005);
                }
            }
        }
    }

    void layers_multiply_add_subtract_and_mask() {
        const auto seen = [](Combine combine, float grey, float strength) {
            Look look = card(Blend::add);
            look.colour_over_life = {{{0, {0.5f, 0.5f, 0.5f, 1}}}};
            Layer& layer = look.layers[0];
            layer.from = LayerFrom::texture;
            layer.texture = "t";
            layer.combine = combine;
            layer.strength = {strength, strength};
            Scene scene(look);
            Texture texture;
            texture.id = "t";
            texture.ramp = {{{0, {grey, grey, grey, 1}}}};
            scene.effect.textures = {texture};
            scene.add({}, 0.6f);
            number(scene);
            return at(scene.light(), width / 2, height / 2);
        };
        QVERIFY(std::abs(seen(Combine::multiply, 0.25f, 1) - 0.125f) < 0.003f);
        QVERIFY(std::abs(seen(Combine::multiply, 0.25f, 0.5f) - 0.3125f) < 0.003f);
        QVERIFY(std::abs(seen(Combine::add, 0.25f, 1) - 0.75f) < 0.003f);
        QVERIFY(std::abs(seen(Combine::subtract, 0.25f, 1) - 0.25f) < 0.003f);
        QVERIFY(std::abs(seen(Combine::mask, 0.25f, 1) - 0.125f) < 0.003f);
        QVERIFY(std::abs(seen(Combine::mask, 0, 1)) < 1e-6f);
    }

    // One layer that is off takes none of the others with it; strength or light of 0 is as good as none.
    void each_layer_is_switched_off_by_itself() {
        const auto seen = [](LayerFrom first, Combine combine, float strength, float gain) {
            Look look = card(Blend::add);
            look.colour_over_life = {{{0, {0.5f, 0.5f, 0.5f, 1}}}};
            look.layers[0].from = first;
            look.layers[0].combine = combine;
            look.layers[0].strength = {strength, strength};
            look.layers[0].gain = gain;
            look.layers[1].from = LayerFrom::edge;
            look.layers[1].combine = Combine::add;
            Scene scene(look);
            scene.add({}, 0.6f);
            number(scene);
            return at(scene.light(), width / 2, height / 2);
        };
        const float second_alone = seen(LayerFrom::none, Combine::add, 1, 1);
        QVERIFY(std::abs(second_alone - 1.5f) < 0.003f);
        QVERIFY(std::abs(seen(LayerFrom::texture, Combine::add, 1, 1) - 2.5f) < 0.003f);
        for (const Combine combine : {Combine::multiply, Combine::add, Combine::subtract, Combine::mask}) {
            QCOMPARE(seen(LayerFrom::texture, combine, 0, 1), second_alone);
        }
        QCOMPARE(seen(LayerFrom::texture, Combine::add, 1, 0), second_alone);
        QCOMPARE(seen(LayerFrom::texture, Combine::subtract, 1, 0), second_alone);
        QCOMPARE(seen(LayerFrom::texture, Combine::multiply, 1, 0), 1.0f); // black, and light on it
    }

    void layers_scroll_tile_and_show_frames_of_a_sheet() {
        Look look = card(Blend::add);
        Layer& layer = look.layers[0];
        layer.from = LayerFrom::texture;
        layer.texture = "t";
        Scene scene(look);
        Texture texture;
        texture.id = "t";
        texture.kind = TextureKind::image;
        texture.image = "sheet.png";
        texture.columns = 2;
        scene.effect.textures = {texture};
        // Two frames side by side: red, then green.
        Image sheet{64, 32, {}};
        for (int i = 0; i < 64 * 32; ++i) {
            sheet.pixels.push_back(i % 64 < 32 ? Colour{1, 0, 0, 1} : Colour{0, 1, 0, 1});
        }
        auto assets = std::make_shared<Assets>();
        assets->by_key[needs_of(texture).front().key()] = std::make_shared<const Asset>(sheet);
        scene.frame.assets = assets;
        scene.add({}, 0.6f, 0.25f);
        number(scene);
        const auto green = [&] { return at(scene.light(), width / 2, height / 2, &LightPlanes::green); };
        QCOMPARE(green(), 0.0f);
        scene.effect.looks[0].layers[0].frame = SheetFrame::over_life;
        QCOMPARE(green(), 0.0f);
        scene.frame.sources[0].particles[0].age_share = uint16_t(0.75 * 65535);
        QVERIFY(green() > 0.99f);
        // As one picture, half of it red: a quarter of a second later it has slid by a quarter.
        scene.effect.textures[0].columns = 1;
        scene.effect.looks[0].layers[0].frame = SheetFrame::first;
        const auto first_green = [&] {
            const LightPlanes& light = scene.light();
            for (int x = 0; x < width; ++x) {
                if (at(light, x, height / 2, &LightPlanes::green) > 0.5f) {
                    return x;
                }
            }
            return width;
        };
        const int before = first_green();
        QVERIFY(std::abs(before - width / 2) <= 1);
        scene.effect.looks[0].layers[0].scroll_x = -1;
        scene.frame.time_s = 0.25;
        QVERIFY(std::abs(float(before - first_green()) - 0.15f / metres_per_pixel) <= 1.5f);
        // Two repeats: red begins again in the middle.
        scene.effect.looks[0].layers[0].scroll_x = 0;
        scene.effect.looks[0].layers[0].tiling_x = 2;
        QVERIFY(std::abs(float(first_green()) - (width / 2 - 0.15f / metres_per_pixel)) <= 1.5f);
    }

    void an_edge_layer_masks_the_rim() {
        Look look = card(Blend::add);
        look.layers[0].from = LayerFrom::edge;
        look.layers[0].combine = Combine::mask;
        look.layers[0].edge_width = 0.5f;
        Scene scene(look);
        scene.add({}, 1);
        number(scene);
        const LightPlanes& light = scene.light();
        QVERIFY(at(light, width / 2, height / 2) > 0.99f);
        const int quarter = int(0.375f / metres_per_pixel); // half way into the edge
        QVERIFY(std::abs(at(light, width / 2 + quarter, height / 2) - 0.5f) < 0.05f);
    }

    void a_lamp_falls_with_the_square_of_the_distance_to_nothing_at_its_reach() {
        Look look = white();
        look.lit = 1;
        const auto light_at = [&](float distance) {
            Scene scene(look);
            scene.frame.lights = {{{0, 0, distance}, {0, -1, 0}, {1, 1, 1}, 100, -2, -2, false}};
            scene.add({}, 0.4f);
            return double(at(scene.light(), width / 2, height / 2));
        };
        QVERIFY(std::abs(light_at(1) - 0.25) < 0.01);
        QVERIFY(std::abs(light_at(2) / light_at(1) - 0.25) < 0.01);
        QVERIFY(light_at(101) < 2e-4);
        // On the ground it casts shadows.
        const auto ground_at = [&](bool shadows) {
            Plane ground;
            ground.colour = {1, 1, 1, 1};
            Ball ball;
            ball.position = {0, 0.5f, 0};
            ball.radius = 0.2f;
            ball.visible = true;
            Scene scene(look, {ground, ball});
            scene.camera.height = 30;
            scene.frame.lights = {{{0, 2, 0}, {0, -1, 0}, {3, 3, 3}, 10, -2, -2, shadows}};
            return sum(scene.light());
        };
        QVERIFY(ground_at(true) < 0.995 * ground_at(false));
        QVERIFY(ground_at(true) > 0);
    }

    void a_spot_shines_into_its_cone_only() {
        Look look = white();
        Plane ground;
        ground.colour = {1, 1, 1, 1};
        Scene scene(look, {ground});
        scene.camera.height = 89;
        const float outer = std::cos(0.35f), inner = std::cos(0.3f);
        scene.frame.lights = {{{0, 1, 0}, {0, -1, 0}, {3, 3, 3}, 20, outer, inner, false}};
        const LightPlanes& light = scene.light();
        QVERIFY(at(light, width / 2, height / 2) > 1);
        const int outside = int(0.5f / metres_per_pixel); // the cone's rim is at 0.36 m
        QCOMPARE(at(light, width / 2 + outside, height / 2), 0.0f);
    }

    void the_mirror_shows_what_flies_above_upside_down_and_nothing_below() {
        Plane ground;
        ground.mirror = 1;
        ground.puddles = 0;
        ground.colour = {0, 0, 0, 1};
        for (const Drawing drawing : {Drawing::dots, Drawing::cards, Drawing::meshes}) {
            Look look = drawing == Drawing::meshes ? body() : white();
            look.drawn_as = drawing;
            Scene scene(look, {ground});
            scene.camera.height = 10;
            scene.add({0, 0.6f, 0}, 0.4f);
            number(scene);
            const LightPlanes& light = scene.light();
            const auto brightest_row = [&](int top, int bottom) {
                int best = top;
                for (int y = top; y < bottom; ++y) {
                    best = at(light, width / 2, y) > at(light, width / 2, best) ? y : best;
                }
                return best;
            };
            const int row = brightest_row(height / 2 + 4, height);
            QVERIFY2(at(light, width / 2, row) > 0.05f, qPrintable(QString::number(int(drawing))));
            QVERIFY(at(light, width / 2, row) < 0.9f * at(light, width / 2, brightest_row(0, height / 2)));
            scene.frame.sources[0].blocks.clear();
            scene.frame.sources[0].particles.clear();
            scene.add({0, -0.6f, 0}, 0.4f);
            const double below = sum(scene.light());
            scene.frame.sources[0].blocks.clear();
            scene.frame.sources[0].particles.clear();
            QCOMPARE(below, sum(scene.light()));
        }
    }

    // Smoothly from the distance on to nothing at the lens; beyond it nothing is changed.
    void what_is_flat_fades_near_the_camera() {
        for (const Drawing drawing : {Drawing::dots, Drawing::streaks, Drawing::trails, Drawing::cards}) {
            const auto light_with = [&](float camera_fade) {
                Look look = white();
                look.drawn_as = drawing;
                look.camera_fade = camera_fade;
                Scene scene(look);
                scene.add({}, 0.4f); // at a depth of 5 m
                number(scene);
                if (drawing == Drawing::trails) {
                    scene.frame.sources[0].trails = {{0, 2, 0, 0.4f, {}}};
                    scene.frame.sources[0].trail_points = {{{-0.5f, 0, 0}, 0}, {{0.5f, 0, 0}, 1}};
                }
                return sum(scene.light());
            };
            const double whole = light_with(0);
            QVERIFY(whole > 1);
            for (const auto& [fade, left] :
                 {std::pair(4.9f, 1.0), std::pair(10.0f, 0.5), std::pair(20.0f, 0.15625)}) {
                QVERIFY2(std::abs(light_with(fade) / whole - left) < 0.01,
                         qPrintable(QStringLiteral("%1, %2 m").arg(int(drawing)).arg(double(fade))));
            }
            QVERIFY(light_with(1000) < 1e-3 * whole);
        }
    }

    // What covers lets through what is behind it by as much; what is cut out goes where it would be half
    // opaque.
    void what_covers_and_what_is_cut_out_goes_near_the_camera_too() {
        for (const Drawing drawing : {Drawing::dots, Drawing::cards}) {
            for (const auto& [blend, half] : {std::pair(Blend::over, 0.5), std::pair(Blend::cut_out, 0.0)}) {
                const auto light_with = [&, blend = blend](float camera_fade) {
                    Look look = card(blend);
                    look.drawn_as = drawing;
                    look.camera_fade = camera_fade;
                    Scene scene(look);
                    scene.add({}, 0.4f); // at a depth of 5 m
                    number(scene);
                    return sum(scene.light());
                };
                const double whole = light_with(0);
                QVERIFY(whole > 1);
                QVERIFY(std::abs(light_with(4.9f) / whole - 1) < 0.01);
                const double left = light_with(10.5f) / whole; // a little less than half is left
                QVERIFY2(
                    std::abs(left - half * 0.93) < 0.03,
                    qPrintable(QStringLiteral("%1, %2: %3").arg(int(drawing)).arg(int(blend)).arg(left)));
            }
        }
    }

    void bloom_keeps_the_light_in_all() {
        Look look = white();
        look.glow = 20;
        for (const float radius : {0.0f, 0.5f, 1.0f}) {
            Scene scene(look);
            scene.add({}, 0.3f);
            const double before = sum(scene.light());
            scene.effect.stage.bloom = 0.8f;
            scene.effect.stage.bloom_radius = radius;
            const LightPlanes& light = scene.light();
            QVERIFY(std::abs(sum(light) / before - 1) < 0.02);
            QVERIFY(at(light, width / 2 + 30, height / 2) > 0); // and spreads it
        }
    }

    void skins_join_what_is_near_and_cost_what_the_meter_says() {
        Look look = body();
        look.drawn_as = Drawing::surface;
        look.surface_radius = 1;
        look.surface_cell = 0.05f;
        look.surface_blending = 0;
        Scene scene(look);
        scene.add({-0.2f, 0, 0}, 0.5f);
        scene.add({0.2f, 0, 0}, 0.5f);
        const QSize size = lit(scene.light());
        QVERIFY(std::abs(float(size.width()) * metres_per_pixel - 0.9f) < 0.09f);
        QVERIFY(scene.renderer.meters().surface_ms > 0 && scene.renderer.meters().triangles > 100);
        // The mesh is closed and has the volume of a ball.
        const BlendedBall ball = {{1, 2, 3}, 0.5f};
        const Mesh mesh = blended_surface({&ball, 1}, 0.04f, 0);
        QCOMPARE(mesh.open_edges(), size_t(0));
        double volume = 0;
        for (const auto& t : mesh.triangles) {
            volume += double(dot(mesh.corners[t[0]] - ball.place,
                                 cross(mesh.corners[t[1]] - ball.place, mesh.corners[t[2]] - ball.place))) /
                      6;
        }
        QVERIFY(std::abs(volume / (4 * std::numbers::pi / 3 * 0.125) - 1) < 0.03);
        QVERIFY(blended_surface({}, 0.05f, 0.1f).triangles.empty());
        const BlendedBall far_off[2] = {{{-5000, 0, 0}, 1}, {{5000, 3000, 4000}, 1}};
        QVERIFY(blended_surface(far_off, 0.01f, 0).triangles.size() < 100000); // made coarser, not endless
        // The same for many large ones that overlap; they still have a skin, as large as they are.
        std::vector<BlendedBall> crowd;
        for (int i = 0; i < 60000; ++i) {
            crowd.push_back(
                {{float(i % 10) * 0.02f, float(i / 10 % 10) * 0.02f, float(i % 7) * 0.02f}, 0.5f});
        }
        const Mesh skin = blended_surface(crowd, 0.005f, 0.05f);
        QVERIFY(skin.triangles.size() > 20 && skin.triangles.size() < 50000);
        QVERIFY(skin.high().x > 0.5f && skin.high().x < 1.5f);
    }

    void particles_are_born_on_a_skin() {
        Effect effect = sample::effect_of(sample::single_particle({}));
        auto& middle = std::get<Emitter>(effect.elements[0].body);
        middle.particle_size = {0.4f, 0.4f};
        middle.speed = {0, 0};
        middle.for_ever = true;
        middle.position = {1, 2, 0};
        effect.looks[0].surface_radius = 1;
        effect.looks[0].size_over_life = {};
        effect.looks[0].surface_blending = 0;
        Emitter born = sample::single_particle({});
        born.shape = BirthShape::skin;
        born.skin_of = effect.elements[0].id;
        born.aim = Aim::normal;
        born.spread = 0;
        born.speed = {0, 0};
        born.position = {5, 5, 5};
        born.turn = {20, 40, 60};
        born.rate = 0;
        born.burst_count = 400;
        born.burst_start = 0.5f;
        born.capacity = 500;
        born.for_ever = true;
        born.look = effect.looks[0].id;
        effect.elements.push_back({.id = "dew", .name = "Dew", .body = born});
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        const ParticlePool& pool = *simulation.find_pool("dew");
        QCOMPARE(pool.live(), size_t(400));
        for (const auto& block : pool.blocks()) {
            for (int i = 0; i < block->count; ++i) {
                const Vec3 place = {block->x[i], block->y[i], block->z[i]};
                QVERIFY(std::abs(length(place - Vec3{1, 2, 0}) - 0.2f) < 0.03f);
            }
        }
    }

    void backgrounds_are_a_ramp_a_panorama_or_the_sky_and_stars_shine_over_all() {
        Scene scene(white());
        scene.effect.stage.background = Background::ramp;
        scene.effect.stage.background_ramp = {{{0, {0, 0, 0, 1}}, {1, {1, 1, 1, 1}}}};
        QVERIFY(std::abs(at(scene.light(), width / 2, height / 2) - 0.5f) < 0.01f); // the horizon
        scene.effect.stage.background_strength = 2;
        QVERIFY(std::abs(at(scene.light(), width / 2, height / 2) - 1) < 0.02f);

        scene.effect.stage.background = Background::image;
        scene.effect.stage.background_image = "sky.png";
        scene.effect.stage.background_strength = 1;
        Image sky{8, 4, std::vector<Colour>(32, {0, 0, 0, 1})};
        sky.pixels[size_t(2 * 8 + 4)] = sky.pixels[size_t(1 * 8 + 4)] = {1, 1, 1, 1};
        auto assets = std::make_shared<Assets>();
        assets->by_key[needs_of(scene.effect.stage).front().key()] = std::make_shared<const Asset>(sky);
        scene.frame.assets = assets;
        // Half way across the picture is towards -z, where the camera looks.
        QVERIFY(at(scene.light(), width / 2 - 20, height / 2) > 0.3f);
        scene.effect.stage.background_turn = 90;
        QVERIFY(at(scene.light(), width / 2, height / 2) < 0.1f);

        scene.effect.stage.background = Background::sky;
        QCOMPARE(sum(scene.light()), 0.0);
        scene.effect.stage.stars = 1;
        scene.light();
        QVERIFY(sum(scene.light()) > 0.5);
    }

    void the_ground_ends_in_its_background_without_a_line() {
        Plane floor;
        floor.position = {0, -1, 0};
        for (const Background background : {Background::sky, Background::ramp, Background::image}) {
            Scene scene(white(), {floor});
            Stage& stage = scene.effect.stage;
            stage.mist = 0.4f;
            stage.sky_horizon =
                background == Background::sky ? Colour{0.4f, 0.4f, 0.4f, 1} : Colour{0, 0, 0, 1};
            stage.background = background;
            stage.background_ramp = {{{0, {0, 0, 0, 1}}, {0.5f, {0.6f, 0.6f, 0.6f, 1}}, {1, {0, 0, 0, 1}}}};
            stage.background_image = "sky.png";
            // Bright on the left, dark on the right, alike from the bottom to the top.
            Image sky{8, 4, std::vector<Colour>(32, {0.1f, 0.1f, 0.1f, 1})};
            for (size_t i = 0; i < 32; ++i) {
                const float bright = i % 8 == 2 || i % 8 == 3 ? 0.9f : 0.2f;
                sky.pixels[i] = {bright, bright, bright, 1};
            }
            if (background == Background::image) {
                auto assets = std::make_shared<Assets>();
                assets->by_key[needs_of(stage).front().key()] = std::make_shared<const Asset>(sky);
                scene.frame.assets = assets;
            }
            while (!scene.renderer.is_settled() || sum(scene.renderer.light()) == 0) {
                scene.light();
            }
            const LightPlanes& light = scene.renderer.light();
            for (const int x : {20, width / 2, width - 20}) {
                const float above = at(light, x, height / 2 - 2), below = at(light, x, height / 2 + 2);
                QVERIFY(above > 0.1f);
                QVERIFY2(std::fabs(below / above - 1) < 0.08f,
                         qPrintable(QString("%1: %2, %3").arg(int(background)).arg(above).arg(below)));
            }
        }
    }

    // What stands and what flies is lit by a ramp or a panorama, if that is asked for.
    void a_background_lights_what_is_before_it() {
        Plane floor;
        floor.position = {0, -1, 0};
        const Ramp bright = {
            {{0, {0, 0, 0, 1}}, {0.45f, {0, 0, 0, 1}}, {0.5f, {1, 0.5f, 0, 1}}, {1, {1, 0.5f, 0, 1}}}};
        Image sky{16, 8, std::vector<Colour>(128, {0, 0, 0, 1})};
        std::fill_n(sky.pixels.begin(), 64, Colour{1, 0.5f, 0, 1}); // its upper half
        const auto lit = [&](Background background, bool lights, Drawing drawing, float strength) {
            Look look = drawing == Drawing::meshes ? body(MeshSet::pebbles) : white(Blend::over);
            look.drawn_as = drawing;
            look.own_light = 0;
            look.lit = 1;
            Scene scene(look, {floor});
            Stage& stage = scene.effect.stage;
            stage.mist = 0;
            stage.background = background;
            stage.background_ramp = bright;
            stage.background_image = "sky.png";
            stage.background_lights = lights;
            stage.background_strength = strength;
            if (background == Background::image) {
                auto assets = std::make_shared<Assets>();
                assets->by_key[needs_of(stage).front().key()] = std::make_shared<const Asset>(sky);
                scene.frame.assets = assets;
            }
            scene.add({0, 0, 0}, 0.8f);
            scene.frame.sources[0].numbers = {1};
            while (!scene.renderer.is_settled() || sum(scene.renderer.light()) == 0) {
                scene.light();
            }
            const LightPlanes& light = scene.renderer.light();
            const int low = height - 4;
            return std::array{at(light, width / 2, height / 2 - 4), at(light, 10, low),
                              at(light, 10, low, &LightPlanes::green)};
        };
        for (const Background background : {Background::ramp, Background::image}) {
            for (const Drawing drawing : {Drawing::dots, Drawing::meshes}) {
                const auto off = lit(background, false, drawing, 1), on = lit(background, true, drawing, 1),
                           twice = lit(background, true, drawing, 2);
                QVERIFY2(on[0] > 0.1f && off[0] < 0.1f * on[0],
                         qPrintable(QString("%1: %2, %3").arg(int(drawing)).arg(on[0]).arg(off[0])));
                QVERIFY2(on[1] > 0.02f && off[1] < 0.3f * on[1], qPrintable(QString::number(on[1])));
                QVERIFY(std::fabs(on[2] / on[1] - 0.5f) < 0.1f); // in its colour
                QVERIFY(std::fabs(twice[0] / on[0] - 2) < 0.1f);
            }
        }
        // The sky's own colours stay what lights under the sky.
        QCOMPARE(lit(Background::sky, true, Drawing::dots, 1), lit(Background::sky, false, Drawing::dots, 1));
    }

    void pictures_are_the_same_on_one_thread_and_two() {
        const auto drawn = [](int threads, Drawing drawing) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, size_t(threads));
            Look look = drawing == Drawing::meshes ? body(MeshSet::pebbles) : card();
            look.drawn_as = drawing;
            look.layers[0].from = LayerFrom::edge;
            Scene scene(look);
            scene.frame.sources[0].largest_size = 1;
            std::vector<Vec3> places;
            for (int i = 0; i < 3000; ++i) {
                const auto part = [i](int p) { return float((i * p) % 997) / 997 - 0.5f; };
                places.push_back(Vec3{part(31), part(57), part(83)} * 2);
            }
            scene.frame.sources[0].add(places, 0.3f, 0.15f);
            number(scene);
            return scene.picture().pixels;
        };
        for (const Drawing drawing : {Drawing::cards, Drawing::meshes, Drawing::surface}) {
            QCOMPARE(drawn(1, drawing), drawn(2, drawing));
        }
    }
};

QTEST_APPLESS_MAIN(TestLooks)
#include "tst_looks.moc"
