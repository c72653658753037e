// Stills as files: their opacity, and large ones drawn in parts.
#include "scene.h"

#include "../core/demos.h"
#include "core/assets/image.h"
#include "core/runtime/past.h"
#include "render/still.h"

#include <QImage>
#include <QTemporaryDir>

#include <map>
#include <random>
#include <set>

using namespace ember;
using namespace ember::scene;

namespace {

// The largest room in which a still takes so many parts.
uint64_t room_for(int parts, const Frame& frame, const Effect& effect, StillOptions options, bool is_exr) {
    for (double room = 1e9; room > 1e6; room *= 0.99) {
        options.room = uint64_t(room);
        if (parts_of_still(frame, effect, options, is_exr) == parts) {
            return uint64_t(room);
        }
    }
    return 0;
}

} // namespace

class TestStill : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::filesystem::path path(const char* name) const { return folder_.filePath(name).toStdString(); }

    // Light as a file of linear light holds it, or, alone, on a PNG that is laid over nothing.
    Image saved(const Frame& frame, const Effect& effect, const StillOptions& options) {
        const auto file = path(options.is_alone ? "still.png" : "still.exr");
        if (save_still(frame, effect, camera_of(effect.stage), options, file)) {
            return {};
        }
        if (!options.is_alone) {
            Problems problems;
            return read_image(file, problems).value_or(Image());
        }
        const QImage png = QImage(QString::fromStdString(file.string()))
                               .convertToFormat(QImage::Format_RGBA8888_Premultiplied);
        Image image{png.width(), png.height(), {}};
        for (int y = 0; y < png.height(); ++y) {
            for (int x = 0; x < png.width(); ++x) {
                const QRgb p =
                    reinterpret_cast<const QRgb*>(png.constScanLine(y))[x]; // blue and red changed over
                image.pixels.push_back({float(qBlue(p)) / 255, float(qGreen(p)) / 255, float(qRed(p)) / 255,
                                        float(qAlpha(p)) / 255});
            }
        }
        return image;
    }

  private slots:
    // What the live view shows inside the effect's frame is what is saved.
    void a_frame_within_a_higher_picture_is_the_picture_of_the_frame() {
        Effect effect = sample::demo_effect("sluice-spray.ember.json");
        effect.stage.bloom = effect.stage.glare = effect.stage.vignette = effect.stage.grain = 0;
        effect.stage.frame_shape = FrameShape::cinema;
        const float ratio = *frame_ratio_of(effect.stage);
        Simulation simulation;
        simulation.set_effect(sample::shared(effect), sample::demo_assets(effect));
        for (int step = 0; step < 120; ++step) {
            simulation.step();
        }
        Frame frame;
        simulation.write_frame(frame);
        constexpr int width = 470, height = 400;
        const int framed = int(std::lround(width / ratio)), above = (height - framed) / 2;
        Picture whole, alone;
        Camera camera = camera_of(effect.stage);
        draw_still(frame, effect, camera, width, framed, alone);
        camera.seen = float(height) / float(framed);
        draw_still(frame, effect, camera, width, height, whole);
        double difference = 0, light = 0;
        for (int y = 0; y < framed; ++y) {
            for (int x = 0; x < width; ++x) {
                const uint32_t a = alone.pixels[size_t(y * width + x)],
                               b = whole.pixels[size_t((y + above) * width + x)];
                for (const int shift : {0, 8, 16}) {
                    difference += std::abs(double(a >> shift & 255) - double(b >> shift & 255));
                    light += double(a >> shift & 255);
                }
            }
        }
        QVERIFY(light > 1e6);
        QVERIFY2(difference < 0.03 * light, qPrintable(QString::number(difference / light)));
    }

    void a_still_drawn_in_parts_is_the_same_picture_data() { sample::add_demo_rows(); }

    // With all that is looked up beside a pixel: the stage out of focus, smoke, bloom and glare, grain.
    void a_still_drawn_in_parts_is_the_same_picture() {
        QFETCH(QString, name);
        Effect effect = sample::demo_effect(name);
        effect.stage.bloom = 0.5f;
        effect.stage.glare = 0.3f;
        effect.stage.grain = 0.2f;
        effect.stage.vignette = 0.4f;
        effect.stage.aperture = name.startsWith("s") ? 60 : 0;
        effect.stage.focus = effect.stage.camera_target;
        Simulation simulation;
        simulation.set_effect(sample::shared(effect), sample::demo_assets(effect));
        for (uint64_t step = 0; step < 150; ++step) {
            simulation.step(sample::people_at(step));
        }
        Frame frame;
        simulation.write_frame(frame);
        for (const bool is_alone : {false, true}) {
            StillOptions options = {320, 1100, is_alone, 1u << 30};
            QCOMPARE(*parts_of_still(frame, effect, options, !is_alone), 1);
            const Image whole = saved(frame, effect, options);
            QCOMPARE(whole.height, options.height);
            for (const int parts : {2, 4}) {
                options.room = room_for(parts, frame, effect, options, !is_alone);
                const Image put_together = saved(frame, effect, options);
                QCOMPARE(put_together.pixels.size(), whole.pixels.size());
                double difference = 0, light = 0;
                int others = 0;
                for (size_t i = 0; i < whole.pixels.size(); ++i) {
                    const Colour a = whole.pixels[i], b = put_together.pixels[i];
                    const float apart = std::fabs(a.green - b.green) + std::fabs(a.alpha - b.alpha);
                    difference += double(apart);
                    light += double(a.green);
                    others += apart > 0.1f * (a.green + 0.05f) ? 1 : 0;
                }
                QVERIFY(light > 10);
                QVERIFY2(difference < 1e-3 * light, qPrintable(QString::number(difference / light)));
                QVERIFY2(others < 40, qPrintable(QString::number(others)));
            }
        }
    }

    void a_moment_that_is_gone_to_looks_as_it_did_data() { sample::add_demo_rows(); }

    // Nor on what was drawn before: a bake that goes on in the middle makes the same pictures.
    void what_is_alone_is_the_same_first_or_later() {
        const Effect effect = sample::demo_effect("pan-steam.ember.json");
        Simulation simulation;
        simulation.set_effect(sample::shared(effect), sample::demo_assets(effect));
        StillPainter later;
        for (int i = 0; i < 3; ++i) {
            for (int step = 0; step < 60; ++step) {
                simulation.step();
            }
            Frame frame;
            simulation.write_frame(frame);
            const auto drawn_by = [&](StillPainter& painter) {
                return painter.draw(frame, *frame.now, camera_of(frame.now->stage),
                                    {.width = 128, .height = 96, .is_alone = true}, StillKind::light);
            };
            StillPainter first;
            QVERIFY2(drawn_by(first).image.pixels == drawn_by(later).image.pixels,
                     qPrintable(QString::number(i)));
        }
    }

    // In any order: to the byte where both are drawn anew. Whoever has drawn other moments before has summed
    // the samples of what stands still in another order: a few pixels are off by the least that a pixel can
    // be.
    void a_moment_that_is_gone_to_looks_as_it_did() {
        QFETCH(const QString, name);
        const Effect effect = sample::demo_effect(name);
        Simulation simulation;
        simulation.set_effect(sample::shared(effect), sample::demo_assets(effect));
        while (simulation.is_warming_up()) {
            simulation.step();
        }
        const auto picture_by = [&](StillPainter& painter) {
            Frame frame;
            simulation.write_frame(frame);
            const Still still = painter.draw(frame, *frame.now, camera_of(frame.now->stage),
                                             {.width = 160, .height = 100}, StillKind::finished);
            return std::vector<uint32_t>(still.picture.pixels.begin(), still.picture.pixels.end());
        };
        std::mt19937 draw(23);
        std::set<uint64_t> chosen;
        while (chosen.size() < 30) {
            chosen.insert(simulation.steps() + draw() % 300);
        }
        std::map<uint64_t, std::vector<uint32_t>> seen;
        Past past;
        StillPainter again;
        while (seen.size() < chosen.size()) {
            const uint64_t step = simulation.steps();
            if (chosen.contains(step)) {
                StillPainter straight;
                seen[step] = picture_by(straight);
            }
            const StepInputs inputs = sample::people_at(step);
            past.note(simulation, inputs);
            simulation.step(inputs);
        }
        std::vector<uint64_t> order(chosen.begin(), chosen.end());
        std::shuffle(order.begin(), order.end(), draw);
        for (const uint64_t step : order) {
            QVERIFY(past.go_to(simulation, step, [] { return true; }));
            StillPainter anew;
            QVERIFY2(picture_by(anew) == seen[step], qPrintable(QStringLiteral("step %1").arg(step)));
            const std::vector<uint32_t> late = picture_by(again);
            int off = 0, most_off = 0;
            for (size_t i = 0; i < late.size(); ++i) {
                off += late[i] != seen[step][i] ? 1 : 0;
                for (const int shift : {0, 8, 16}) {
                    most_off = std::max(
                        most_off, std::abs(int(late[i] >> shift & 255) - int(seen[step][i] >> shift & 255)));
                }
            }
            QVERIFY2(
                most_off <= 1 && off < 100,
                qPrintable(QStringLiteral("step %1: %2 pixels, by %3").arg(step).arg(off).arg(most_off)));
        }
    }

    void what_finds_no_room_is_refused() {
        Scene scene(white());
        scene.frame.sources[0].add(std::vector<Vec3>(100'000), 0.1f, 0);
        StillOptions options = {4096, 4096, false, 50'000'000};
        QVERIFY(!parts_of_still(scene.frame, scene.effect, options, false));
        const auto problem = save_still(scene.frame, scene.effect, scene.camera, options, path("none.png"));
        QVERIFY(problem);
        QVERIFY(QString::fromStdString(problem->found).contains("GB"));
        QVERIFY(!std::filesystem::exists(path("none.png")));
        options.room = 800'000'000;
        QVERIFY(*parts_of_still(scene.frame, scene.effect, options, false) > 1);
    }

    void a_picture_without_the_stage_has_opacity() {
        Look look = white(Blend::over);
        look.drawn_as = Drawing::cards;
        look.edge = 0;
        look.opacity = 0.5f;
        Plane ground;
        Scene scene(look, {ground});
        scene.camera.height = 20;
        scene.effect.stage.exposure = 1;
        scene.add({0, 0.5f, 0}, 0.4f);
        scene.frame.sources[0].numbers.push_back(0);
        const StillOptions options = {width, height, true, {}};
        QVERIFY(!save_still(scene.frame, scene.effect, scene.camera, options, path("a.exr")));
        Problems problems;
        const auto exr = read_image(path("a.exr"), problems);
        QVERIFY(exr && problems.empty());
        QCOMPARE(exr->width, width);
        double covered = 0;
        for (const Colour& c : exr->pixels) {
            QVERIFY(c.alpha < 0.502f);
            QVERIFY(c.alpha < 0.499f || std::abs(c.red - 2) < 0.01f); // white, doubled by exposure
            covered += double(c.alpha);
        }
        QVERIFY(covered > 50);
        QVERIFY(!save_still(scene.frame, scene.effect, scene.camera, options, path("a.png")));
        const QImage png(folder_.filePath("a.png"));
        QCOMPARE(qAlpha(png.pixel(2, 2)), 0);
        QVERIFY(png.hasAlphaChannel());
        // With the stage all is opaque.
        QVERIFY(
            !save_still(scene.frame, scene.effect, scene.camera, {width, height, false, {}}, path("b.exr")));
        const auto whole = read_image(path("b.exr"), problems);
        QVERIFY(whole && whole->at(2, 2).alpha == 1);
        QVERIFY(save_still(scene.frame, scene.effect, scene.camera, options, "/proc/nowhere.exr"));
    }
};

QTEST_APPLESS_MAIN(TestStill)
#include "tst_still.moc"
