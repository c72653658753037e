// Pieces of breakables as a picture: their surfaces, their shadows, and how they go.
#include "../core/sample_effects.h"

#include "render/projection.h"
#include "render/renderer.h"

#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr int width = 240, height = 180;

// A red block with green inside, seen from the front in an even light; sun only where a test asks for it.
Effect block_effect(const Vec3& position = {0, 0, 0}) {
    Effect effect = starter_effect();
    effect.elements.clear();
    Breakable block;
    block.position = position;
    block.pieces = 12;
    block.colour = {0.8f, 0.02f, 0.02f, 1};
    block.inner_colour = {0.02f, 0.8f, 0.02f, 1};
    block.shine = 0;
    effect.elements = {{.id = "block", .name = "Block", .body = block}};
    effect.stage = {};
    effect.stage.bloom = 0;
    effect.stage.mist = 0;
    effect.stage.sun_strength = 0;
    effect.stage.sky_top = effect.stage.sky_horizon = {0.5f, 0.5f, 0.5f, 1};
    effect.stage.camera_target = {0, 0, 0};
    effect.stage.camera_distance = 5;
    effect.stage.camera_azimuth = 0;
    effect.stage.camera_height = 0;
    return effect;
}

class Shown {
  public:
    explicit Shown(Effect effect) : effect_(std::move(effect)) {
        simulation_.set_effect(shared(effect_), library_.load(effect_, ".").assets);
        simulation_.step();
        simulation_.write_frame(frame_);
    }
    Frame& frame() { return frame_; }
    Renderer& renderer() { return renderer_; }
    void run(double seconds) {
        for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
            simulation_.step();
        }
        simulation_.write_frame(frame_);
    }

    LightPlanes light() {
        Picture picture;
        for (int i = 0; i < Renderer::most_stage_samples; ++i) { // the stage settled
            renderer_.draw(frame_, effect_, camera_of(effect_.stage), width, height, picture);
        }
        return renderer_.light();
    }
    // How many pixels are clearly of the outside's colour, and of the inside's.
    std::pair<int, int> red_and_green() {
        const LightPlanes seen = light();
        std::pair<int, int> counts;
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x) {
                const size_t at = size_t(y) * size_t(seen.stride) + size_t(x);
                counts.first += seen.red[at] > 3 * seen.green[at] ? 1 : 0;
                counts.second += seen.green[at] > 3 * seen.red[at] ? 1 : 0;
            }
        }
        return counts;
    }
    // The light where a place of the world is seen.
    float light_at(const Vec3& place) {
        const LightPlanes seen = light();
        const ViewAxes view = axes_of(camera_of(effect_.stage));
        const Vec3 away = place - view.eye;
        const float scale = view.focal * height / 2 / dot(away, view.forward);
        const int x = int(width / 2 + dot(away, view.right) * scale);
        const int y = int(height / 2 - dot(away, view.up) * scale);
        return seen.red[size_t(y) * size_t(seen.stride) + size_t(x)];
    }

  private:
    Effect effect_;
    AssetLibrary library_;
    Simulation simulation_;
    Frame frame_;
    Renderer renderer_;
};

// Ground, a sun from straight above, a camera that looks down from the front.
Effect sunny(Effect effect) {
    Plane ground;
    ground.colour = {0.5f, 0.5f, 0.5f, 1};
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = ground});
    effect.stage.sun_strength = 3;
    effect.stage.sun_colour = {1, 1, 1, 1};
    effect.stage.sun_height = 90;
    effect.stage.sky_top = effect.stage.sky_horizon = {0.05f, 0.05f, 0.05f, 1};
    effect.stage.camera_height = 50;
    effect.stage.camera_distance = 9;
    return effect;
}

} // namespace

class TestPieces : public QObject {
    Q_OBJECT

  private slots:
    void the_inside_is_only_seen_where_it_is_laid_open() {
        Shown shown(block_effect());
        const auto [red, green] = shown.red_and_green();
        // A metre at five metres' distance, seen a little larger for its front is nearer.
        const double side = (1 / std::tan(20 * 3.14159265 / 180)) * height / 2 / 4.5;
        QVERIFY2(std::fabs(red - side * side) < 0.05 * side * side, qPrintable(QString::number(red)));
        QVERIFY(green < 5);
        for (FramePiece& piece : shown.frame().debris.at(0).pieces) {
            piece.placement.position = piece.placement.position * 1.6f;
        }
        QVERIFY(shown.red_and_green().second > 200);
    }

    // Until it breaks, a body looks as if it had not been cut; what has moved shows its inside.
    void a_whole_body_shows_no_joints() {
        const auto lights_of = [](int pieces, double moved) {
            Effect effect = block_effect();
            auto& block = std::get<Breakable>(effect.elements[0].body);
            block.pieces = pieces;
            block.turn = {20, 35, 10};
            effect.stage.sun_strength = 1;
            Shown shown(effect);
            for (FramePiece& piece : shown.frame().debris.at(0).pieces) {
                piece.placement.position = piece.placement.position * float(1 + moved);
            }
            return shown.light();
        };
        const LightPlanes uncut = lights_of(1, 0), cut = lights_of(60, 0), apart = lights_of(60, 0.002);
        // Of the two brightest colours, as shares of the brightest (PSNR).
        const auto alike_db = [&](const LightPlanes& other) {
            double squares = 0, most = 0;
            for (int y = 0; y < height; ++y) {
                for (int x = 0; x < width; ++x) {
                    const size_t at = size_t(y) * size_t(uncut.stride) + size_t(x);
                    for (const auto plane : {&LightPlanes::red, &LightPlanes::green}) {
                        const double off = double((uncut.*plane)[at]) - double((other.*plane)[at]);
                        squares += off * off;
                        most = std::max(most, double((uncut.*plane)[at]));
                    }
                }
            }
            return 10 * std::log10(most * most / std::max(squares / (2.0 * width * height), 1e-12));
        };
        QVERIFY2(alike_db(cut) > 40, qPrintable(QString::number(alike_db(cut))));
        QVERIFY2(alike_db(apart) < alike_db(cut) - 3, qPrintable(QString::number(alike_db(apart))));
    }

    void a_flat_side_has_no_seams_where_a_corner_lies_on_an_edge() {
        // A square of three triangles; a fourth without area joins the long edge and its two halves.
        Mesh mesh;
        mesh.corners = {{-1, -1, 0}, {1, -1, 0}, {1, 1, 0}, {-1, 1, 0}, {0, 0, 0}};
        mesh.triangles = {{0, 1, 2}, {0, 2, 4}, {0, 4, 3}, {4, 2, 3}};
        Stage stage;
        stage.camera_target = {0, 0, 0};
        stage.camera_azimuth = stage.camera_height = 0;
        const Lighting lighting = Lighting::of(stage, {rgb(stage.sky_top), rgb(stage.sky_horizon)}, {});
        Look look;
        look.drawn_as = Drawing::meshes;
        Triangles drawn;
        project_shape(body_of(mesh, false), {1, 1, 1, 1}, prepared(look, lighting), 0,
                      projection_of(camera_of(stage), width, height), drawn);
        QCOMPARE(drawn.list.size(), size_t(3));
        int rims = 0;
        for (const Triangle& each : drawn.list) {
            rims += each.is_rim[0] + each.is_rim[1] + each.is_rim[2];
        }
        QCOMPARE(rims, 4); // the square's own
    }

    void pieces_apart_cover_more_of_the_picture() {
        Shown shown(block_effect());
        const auto covered = [&] {
            const LightPlanes seen = shown.light();
            int count = 0;
            for (int y = 0; y < height; ++y) {
                for (int x = 0; x < width; ++x) {
                    const size_t at = size_t(y) * size_t(seen.stride) + size_t(x);
                    count += std::fabs(seen.red[at] - seen.green[at]) > 0.02f ||
                                     std::fabs(seen.green[at] - seen.blue[at]) > 0.02f
                                 ? 1
                                 : 0;
                }
            }
            return count;
        };
        const int whole = covered();
        shown.renderer().set_cut_apart(0);
        const int cut = covered();
        shown.renderer().set_cut_apart(1);
        const int apart = covered();
        QVERIFY(std::abs(cut - whole) < 0.1 * whole);
        QVERIFY(apart > 1.3 * whole);
    }

    void what_is_cleared_shrinks_or_fades() {
        Shown shown(block_effect());
        const int whole = shown.red_and_green().first;
        for (FramePiece& piece : shown.frame().debris.at(0).pieces) {
            piece.size = 0.5f;
        }
        const auto [red, green] = shown.red_and_green();
        QVERIFY(red > 20 && red + green < 0.8 * whole);
        for (FramePiece& piece : shown.frame().debris.at(0).pieces) {
            piece.size = 1;
            piece.opacity = 0;
        }
        QCOMPARE(shown.red_and_green(), std::pair(0, 0));
    }

    void pieces_keep_the_sun_off_the_ground_below_them() {
        Effect effect = sunny(block_effect({0, 1.5f, 0}));
        Shown with(effect);
        effect.elements[0].muted = true;
        Shown without(effect);
        // Below the block, in front of its picture; and off to the side.
        const Vec3 below = {0, 0, 0.3f}, beside = {1.2f, 0, 0.3f};
        QVERIFY2(with.light_at(below) < 0.5f * without.light_at(below),
                 qPrintable(QString("%1 %2").arg(with.light_at(below)).arg(without.light_at(below))));
        QVERIFY(std::fabs(with.light_at(beside) - without.light_at(beside)) < 0.03f);
    }

    void a_shadow_of_the_stage_is_not_darkened_again() {
        Effect effect = sunny(block_effect({0, 1.2f, 0}));
        Box roof;
        roof.position = {0, 3, 0};
        roof.size = {2.4f, 0.1f, 2.4f};
        effect.elements.push_back({.id = "roof", .name = "Roof", .body = roof});
        effect.stage.camera_height = 25; // under the roof
        Shown with(effect);
        effect.elements[0].muted = true;
        Shown without(effect);
        const Vec3 below = {0, 0, 0.4f};
        const float both = with.light_at(below), roof_only = without.light_at(below);
        QVERIFY2(both > 0.85f * roof_only, qPrintable(QString("%1 %2").arg(both).arg(roof_only)));
    }

    void colliders_keep_the_sun_off_pieces() {
        Effect effect = sunny(block_effect({0, 0.5f, 0}));
        const Vec3 top = {0, 1, 0.2f};
        const float in_the_sun = Shown(effect).light_at(top);
        Ball ball;
        ball.position = {0, 4, 0};
        ball.radius = 1;
        effect.elements.push_back({.id = "ball", .name = "Ball", .body = ball});
        effect.stage.camera_height = 35;
        QVERIFY(Shown(effect).light_at(top) < 0.4f * in_the_sun);
    }

    void parked_and_resting_pieces_stay_in_the_picture() {
        Effect effect = block_effect({0, 0.4f, 0});
        auto& block = std::get<Breakable>(effect.elements[0].body);
        block.strength = 0;
        block.at_rest = RestFate::park;
        block.linger = {0.1f, 0.1f};
        effect.elements.push_back({.id = "g", .name = "G", .body = Gravity{}, .links = {{"block", 1}}});
        Plane ground;
        ground.position = {0, -0.4f, 0};
        ground.visible = false;
        effect.elements.push_back({.id = "p", .name = "P", .body = ground, .links = {{"block", 1}}});
        Shown shown(effect);
        const int falling = shown.red_and_green().first;
        shown.run(5);
        QVERIFY(shown.frame().meters.debris.parked > 5);
        const auto [red, green] = shown.red_and_green();
        QVERIFY(red + green > falling / 2);
    }
};

QTEST_GUILESS_MAIN(TestPieces)
#include "tst_pieces.moc"
