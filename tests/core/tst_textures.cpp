// Textures as they are made, and images as they are read: what is welcome, and what is said of the rest.
#include "sample_effects.h"
#include "sample_files.h"

#include "core/assets/assets.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/textures/texture_maker.h"

#include <QImage>
#include <QTemporaryDir>
#include <QtTest>

#include <numeric>

using namespace ember;

namespace {

float bright(const Image& image, int x, int y) {
    const int w = image.width, h = image.height;
    return image.at((x + w) % w, (y + h) % h).green;
}

std::vector<Texture> all_kinds() {
    std::vector<Texture> all;
    for (const TextureKind kind : {TextureKind::dots, TextureKind::grid, TextureKind::rings}) {
        all.push_back({.kind = kind, .count = 5, .softness = 0.8f, .jitter = 0.5f});
    }
    for (const CellKind cells : {CellKind::distance, CellKind::walls, CellKind::flat}) {
        all.push_back({.kind = TextureKind::cells, .count = 4, .jitter = 1, .cells = cells});
    }
    for (const NoiseKind noise : {NoiseKind::value, NoiseKind::gradient, NoiseKind::ridged}) {
        all.push_back({.kind = TextureKind::noise, .count = 3, .noise = noise, .octaves = 3});
        all.push_back({.kind = TextureKind::noise, .count = 3, .noise = noise, .octaves = 3, .warp = 0.2f});
    }
    return all;
}

} // namespace

class TestTextures : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::filesystem::path path(const char* name) const { return folder_.filePath(name).toStdString(); }

    std::string said_of(const char* name) const {
        Problems problems;
        return read_image(path(name), problems) && problems.empty() ? "" : problems.front().text();
    }

  private slots:
    // From one side to the other the picture goes on as it does inside.
    void textures_have_no_seam() {
        for (const Texture& texture : all_kinds()) {
            constexpr int side = 128;
            const Image image = made_texture(texture, side, nullptr);
            double inside = 0, seam = 0, most_inside = 0, most_seam = 0;
            for (int y = 0; y < side; ++y) {
                for (int x = 0; x < side; ++x) {
                    for (const double step :
                         {double(std::abs(bright(image, x, y) - bright(image, x - 1, y))),
                          double(std::abs(bright(image, y, x) - bright(image, y, x - 1)))}) {
                        (x == 0 ? seam : inside) += step;
                        double& most = x == 0 ? most_seam : most_inside;
                        most = std::max(most, step);
                    }
                }
            }
            QVERIFY(most_inside > 0.01);
            QVERIFY(most_seam <= most_inside * 1.01);
            QVERIFY(seam <= 3 * inside / (side - 1) + 1e-6); // and on average not much more
        }
    }

    void numbers_change_what_they_name() {
        const Texture plain = {.kind = TextureKind::noise};
        const auto mean = [](const Texture& texture) {
            const Image image = made_texture(texture, 64, nullptr);
            return std::accumulate(image.pixels.begin(), image.pixels.end(), 0.0,
                                   [](double sum, const Colour& c) { return sum + double(c.green); }) /
                   double(image.pixels.size());
        };
        const auto spread = [](const Texture& texture) {
            const Image image = made_texture(texture, 64, nullptr);
            double sum = 0;
            for (int i = 1; i < 64 * 64; ++i) {
                sum += std::abs(double(image.pixels[size_t(i)].green - image.pixels[size_t(i - 1)].green));
            }
            return sum;
        };
        Texture other = plain;
        other.inverted = true;
        QVERIFY(std::abs(mean(plain) + mean(other) - 1) < 1e-5);
        other = plain;
        other.middle = 2;
        QVERIFY(mean(other) > mean(plain) + 0.05);
        other = plain;
        other.levels = {0.45f, 0.55f};
        QVERIFY(spread(other) > 2 * spread(plain));
        other = plain;
        other.blur = 0.1f;
        QVERIFY(spread(other) < 0.5 * spread(plain));
        QVERIFY(std::abs(mean(other) - mean(plain)) < 1e-4);
        other = plain;
        other.variant = 2;
        QVERIFY(made_texture(other, 32, nullptr).pixels != made_texture(plain, 32, nullptr).pixels);
        QVERIFY(made_texture(plain, 32, nullptr).pixels == made_texture(plain, 32, nullptr).pixels);
        other = plain;
        other.ramp = {{{0, {1, 0, 0, 0.5f}}}};
        QCOMPARE(made_texture(other, 32, nullptr).pixels[5], (Colour{1, 0, 0, 0.5f}));
        // Dots of nine tenths leave gaps in the corners only: pi / 4 of the square, and of that 0.81.
        Texture dots = {.kind = TextureKind::dots, .count = 4, .size = 0.9f, .softness = 0.01f};
        QVERIFY(std::abs(mean(dots) - 0.636) < 0.03);
    }

    void making_can_be_cancelled() {
        Progress progress;
        int asked = 0;
        progress.report = [&](const std::string&, float) { return ++asked < 3; };
        QVERIFY(made_texture({}, 1024, nullptr, progress).pixels.empty());
        QCOMPARE(asked, 3);
    }

    void pictures_are_saved_with_8_and_16_bits() {
        Image image{64, 64, {}};
        for (int i = 0; i < 64 * 64; ++i) {
            image.pixels.push_back({float(i) / 4096, 0.25f, 1, i % 2 == 0 ? 1.0f : 0.5f});
        }
        for (const auto& [depth, name, step] :
             {std::tuple(PngDepth::bits8, "eight.png", 0.01), {PngDepth::bits16, "sixteen.png", 2e-4}}) {
            QVERIFY(!write_png(image, depth, path(name)));
            const QImage read(folder_.filePath(name));
            QCOMPARE(read.depth(), depth == PngDepth::bits8 ? 32 : 64);
            Problems problems;
            const auto back = read_image(path(name), problems);
            QVERIFY(back && problems.empty());
            for (size_t i = 0; i < image.pixels.size(); ++i) {
                QVERIFY(std::abs(double(back->pixels[i].red - image.pixels[i].red)) < step);
                QVERIFY(std::abs(double(back->pixels[i].alpha - image.pixels[i].alpha)) < 0.003);
            }
        }
        QVERIFY(!write_exr(image, path("light.exr")));
        Problems problems;
        const auto back = read_image(path("light.exr"), problems);
        QVERIFY(back && std::abs(back->pixels[4000].blue - 1) < 0.001f);
    }

    void images_of_any_depth_are_read() {
        QImage grey(20, 10, QImage::Format_Grayscale8);
        grey.fill(255);
        grey.save(folder_.filePath("grey.png"));
        QImage bits(20, 10, QImage::Format_Mono);
        bits.fill(1);
        bits.save(folder_.filePath("bits.png"));
        QImage one(1, 1, QImage::Format_RGB32);
        one.fill(Qt::white);
        one.save(folder_.filePath("one.png"));
        for (const char* name : {"grey.png", "bits.png", "one.png"}) {
            Problems problems;
            const auto image = read_image(path(name), problems);
            QVERIFY2(image && problems.empty(), name);
            QVERIFY(std::abs(image->pixels[0].green - 1) < 1e-4f);
            // A texture of it can be made, whatever its size.
            QCOMPARE(made_texture({.kind = TextureKind::image, .blur = 0.1f}, 64, &*image).width,
                     image->width);
        }
    }

    void a_huge_image_is_read_row_by_row_and_kept_small() {
        QImage huge(16384, 64, QImage::Format_Grayscale8);
        for (int y = 0; y < huge.height(); ++y) {
            std::memset(huge.scanLine(y), y < 32 ? 0 : 255, size_t(huge.width()));
        }
        huge.save(folder_.filePath("huge.png"));
        Problems problems;
        const auto image = read_image(path("huge.png"), problems);
        QVERIFY(image && problems.size() == 1);
        QCOMPARE(image->width, 2048);
        QCOMPARE(image->at(3, 0).green, 0.0f);
        QVERIFY(image->at(3, 7).green > 0.99f);
        QVERIFY(problems[0].text().find("2048x8") != std::string::npos);
        QImage wider(16385, 1, QImage::Format_Grayscale8);
        wider.save(folder_.filePath("wider.png"));
        QVERIFY(said_of("wider.png").find("16384x16384") != std::string::npos);
    }

    void bad_images_are_told_and_textures_stay_white() {
        sample::write_text(path("text.png").string(), "this is no picture");
        sample::write_text(path("text.exr").string(), "this is no picture");
        QImage(64, 64, QImage::Format_RGB32).save(folder_.filePath("whole.png"));
        QFile whole(folder_.filePath("whole.png"));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        sample::write_text(path("half.png").string(), whole.readAll().left(80).toStdString());
        for (const char* name : {"text.png", "text.exr", "half.png", "missing.png", "missing.exr"}) {
            QVERIFY2(said_of(name).find(name) != std::string::npos, name);
            Effect effect = starter_effect();
            effect.textures = {{.id = "t", .name = "t", .kind = TextureKind::image, .image = name}};
            const LoadResult loaded = AssetLibrary().load(effect, folder_.path().toStdString());
            QCOMPARE(loaded.missing.size(), size_t(1));
            QVERIFY(loaded.missing[0].place.find("t.image") == 0);
        }
        QCOMPARE(made_texture({.kind = TextureKind::image}, 64, nullptr).pixels[0], Colour());
    }

    void a_mesh_far_too_fine_for_particles_is_made_coarse_and_said() {
        sample::write_ball_mesh(path("ball.obj").string(), 200); // 159,200 triangles
        Effect effect = starter_effect();
        effect.looks[0].drawn_as = Drawing::meshes;
        effect.looks[0].mesh_set = MeshSet::files;
        effect.looks[0].mesh_a = "ball.obj";
        const LoadResult loaded = AssetLibrary().load(effect, folder_.path().toStdString());
        QVERIFY(loaded.missing.empty() && loaded.notes.size() == 1);
        const auto mesh = loaded.assets.find<Mesh>(needs_of(effect.looks[0]).front().key());
        QVERIFY(mesh && mesh->triangles.size() <= most_body_triangles && mesh->triangles.size() > 500);
    }

    void textures_are_kept_in_files_with_the_layers_that_use_them() {
        Effect effect = starter_effect();
        std::string id;
        effect = with_new_texture(effect, TextureKind::cells, id);
        QCOMPARE(id, std::string("cells"));
        effect = with_new_texture(effect, TextureKind::cells, id);
        QCOMPARE(id, std::string("cells-2"));
        effect.looks[0].drawn_as = Drawing::cards;
        effect.looks[0].layers[1].from = LayerFrom::texture;
        effect.looks[0].layers[1].texture = id;
        effect.looks[0].layers[1].strength = {0.2f, 0.7f};
        const ReadResult read = parse_effect(effect_text(effect), "test");
        QVERIFY(read.is_sound());
        QVERIFY(*read.effect == effect);
        // A layer whose texture is not there says so and is left without.
        Effect broken = effect;
        broken.textures.pop_back();
        const ReadResult told = parse_effect(effect_text(broken), "test");
        QVERIFY(told.problems.size() == 1 && told.effect);
        QVERIFY(told.problems[0].place.find("layer2_texture") != std::string::npos);
        const Effect without = without_texture(effect, id);
        QVERIFY(without.looks[0].layers[1].texture.empty() && without.textures.size() == 1);
    }
};

QTEST_APPLESS_MAIN(TestTextures)
#include "tst_textures.moc"
