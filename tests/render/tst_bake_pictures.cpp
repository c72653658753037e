// Pictures of a bake: sequences, video decoded again, and sheets played as a game does.
#include "../core/demos.h"
#include "../core/read_back.h"
#include "../core/sample_effects.h"

#include "render/bake_pictures.h"

#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libswscale/swscale.h>
}

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

BakeOrder order_of(const QString& demo, const QString& folder) {
    const Effect effect = demo_effect(demo);
    BakeOrder order;
    order.effect = shared(effect);
    order.assets = demo_assets(effect);
    order.span = {0.5, 0.9};
    order.frames_per_s = 30;
    order.folder = folder.toStdString();
    return order;
}

// The frames of a video as FFmpeg's libraries read them.
std::vector<QImage> decoded(const QString& path) {
    std::vector<QImage> images;
    AVFormatContext* container = nullptr;
    if (avformat_open_input(&container, path.toUtf8().constData(), nullptr, nullptr) < 0) {
        return images;
    }
    avformat_find_stream_info(container, nullptr);
    const AVCodecParameters* told = container->streams[0]->codecpar;
    AVCodecContext* context = avcodec_alloc_context3(avcodec_find_decoder(told->codec_id));
    avcodec_parameters_to_context(context, told);
    avcodec_open2(context, context->codec, nullptr);
    AVPacket* packet = av_packet_alloc();
    AVFrame* frame = av_frame_alloc();
    SwsContext* scale =
        sws_getContext(context->width, context->height, context->pix_fmt, context->width, context->height,
                       AV_PIX_FMT_RGBA, SWS_BICUBIC | SWS_FULL_CHR_H_INT, nullptr, nullptr, nullptr);
    if (context->pix_fmt != AV_PIX_FMT_RGBA) {
        const int* table = sws_getCoefficients(SWS_CS_ITU709);
        sws_setColorspaceDetails(scale, table, 0, table, 1, 0, 1 << 16, 1 << 16);
    }
    const auto receive = [&] {
        while (avcodec_receive_frame(context, frame) >= 0) {
            QImage image(frame->width, frame->height, QImage::Format_RGBA8888);
            uint8_t* planes[] = {image.bits()};
            const int strides[] = {int(image.bytesPerLine())};
            sws_scale(scale, frame->data, frame->linesize, 0, frame->height, planes, strides);
            images.push_back(image);
        }
    };
    while (av_read_frame(container, packet) >= 0) {
        avcodec_send_packet(context, packet);
        av_packet_unref(packet);
        receive();
    }
    avcodec_send_packet(context, nullptr);
    receive();
    sws_freeContext(scale);
    av_frame_free(&frame);
    av_packet_free(&packet);
    avcodec_free_context(&context);
    avformat_close_input(&container);
    return images;
}

double psnr(const QImage& a, const QImage& b) {
    double sum = 0;
    for (int y = 0; y < a.height(); ++y) {
        for (int x = 0; x < a.width(); ++x) {
            const QRgb p = a.pixel(x, y), q = b.pixel(x, y);
            for (const int part : {qRed(p) - qRed(q), qGreen(p) - qGreen(q), qBlue(p) - qBlue(q)}) {
                sum += double(part) * part;
            }
        }
    }
    return 10 * std::log10(255.0 * 255.0 / std::max(sum / (3.0 * a.width() * a.height()), 1e-9));
}

QString numbered(const QString& folder, int number, const char* ending = "png") {
    return QString("%1/pictures/%2.%3").arg(folder).arg(number, 5, 10, QChar('0')).arg(ending);
}

// Soft balls of light that fly, as a sheet's frames.
Image balls_at(double time, int side = 96) {
    Image image{side, side, std::vector<Colour>(size_t(side) * size_t(side), Colour{0, 0, 0, 0})};
    for (int ball = 0; ball < 3; ++ball) {
        const double x = side * (0.25 + 0.2 * ball) + (4 + ball) * time,
                     y = side * (0.7 - 0.15 * ball) - 5 * time;
        for (int j = 0; j < side; ++j) {
            for (int i = 0; i < side; ++i) {
                const double square = ((i - x) * (i - x) + (j - y) * (j - y)) / 40.0;
                const float light = float(std::exp(-square));
                Colour& c = image.pixels[size_t(j) * size_t(side) + size_t(i)];
                c = {c.red + 0.9f * light, c.green + 0.5f * light, c.blue + 0.2f * light,
                     std::min(c.alpha + light, 1.0f)};
            }
        }
    }
    return image;
}

} // namespace

class TestBakePictures : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString path(const QString& name) const { return folder_.filePath(name); }

    BakeResult baked(const BakeOrder& order, const BakedPicture& picture, PictureFormat format) {
        BakeWriters writers;
        writers.push_back(picture_files(order, bake_painter(), picture, format));
        return bake(order, writers);
    }

  private slots:
    void a_sequence_is_what_single_stills_are() {
        const BakeOrder order = order_of("sluice-spray.ember.json", path("png"));
        QVERIFY(!baked(order, {160, 100}, PictureFormat::png8).problem);
        for (const int number : {0, 11}) {
            Simulation simulation;
            simulation.set_effect(order.effect, order.assets);
            while (simulation.steps() < simulation.warm_up_steps() + order.step_of(number)) {
                simulation.step();
            }
            Frame frame;
            simulation.write_frame(frame);
            Picture still;
            draw_still(frame, *frame.now, camera_of(frame.now->stage), 160, 100, still);
            const QImage expected(reinterpret_cast<const uchar*>(still.pixels.data()), 160, 100,
                                  QImage::Format_RGB32);
            const QImage found(numbered(path("png"), number));
            QCOMPARE(found.size(), QSize(160, 100));
            QVERIFY(psnr(found, expected) > 45);
        }
        QVERIFY(!QFile::exists(numbered(path("png"), 12)));
    }

    void deep_pictures_are_the_same_with_more_steps() {
        const BakeOrder order = order_of("pan-steam.ember.json", path("deep")),
                        plain = order_of("pan-steam.ember.json", path("plain"));
        QVERIFY(!baked(order, {160, 100}, PictureFormat::png16).problem);
        QVERIFY(!baked(plain, {160, 100}, PictureFormat::png8).problem);
        const QImage deep(numbered(path("deep"), 5)), shallow(numbered(path("plain"), 5));
        QCOMPARE(deep.depth(), 64);
        QVERIFY(psnr(deep.convertToFormat(QImage::Format_RGB32), shallow) > 42);
        QSet<quint64> deep_tones, shallow_tones;
        for (int y = 0; y < deep.height(); ++y) {
            for (int x = 0; x < deep.width(); ++x) {
                deep_tones.insert(reinterpret_cast<const QRgba64*>(deep.constScanLine(y))[x].green());
                shallow_tones.insert(quint64(qGreen(shallow.pixel(x, y))));
            }
        }
        QVERIFY(deep_tones.size() > 4 * shallow_tones.size());
    }

    void alone_they_have_opacity() {
        const BakeOrder order = order_of("flare-call.ember.json", path("alone"));
        QVERIFY(!baked(order, {160, 100, true}, PictureFormat::png8).problem);
        const QImage image(numbered(path("alone"), 8));
        int clear = 0, seen = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) {
                const int alpha = qAlpha(image.pixel(x, y)); // glow spreads far, but thinly
                clear += alpha < 16 ? 1 : 0;
                seen += alpha > 100 ? 1 : 0;
            }
        }
        QVERIFY(clear > 1000 && seen > 20);
    }

    void layers_hold_depth_and_each_source_by_itself() {
        BakeOrder order = order_of("sluice-spray.ember.json", path("layers"));
        order.span.to_s = 0.55;
        QVERIFY(!baked(order, {96, 64}, PictureFormat::layers).problem);
        const std::string file = numbered(path("layers"), 1, "exr").toStdString();
        const auto depth = read_channel(file, "Z"), whole = read_channel(file, "G");
        QCOMPARE(depth.size(), size_t(96 * 64));
        const auto [nearest, farthest] = std::minmax_element(depth.begin(), depth.end());
        QVERIFY(*nearest > 0.2f && *nearest < 30 && *farthest > *nearest);
        QVERIFY(*std::max_element(whole.begin(), whole.end()) > 0.01f);
        int sources = 0;
        for (const Element& element : order.effect->elements) {
            if (std::holds_alternative<Emitter>(element.body)) {
                const auto light = read_channel(file, element.id + ".G");
                QVERIFY(*std::max_element(light.begin(), light.end()) > 0);
                // Where nothing of it is, there is nothing: the stage is left out.
                QVERIFY(std::count(light.begin(), light.end(), 0.0f) > 500);
                ++sources;
            }
        }
        QVERIFY(sources >= 2);
    }

    void video_has_every_frame_data() {
        QTest::addColumn<int>("format");
        QTest::addColumn<QString>("name");
        QTest::addColumn<bool>("alone");
        QTest::newRow("h264") << int(VideoFormat::h264) << "video.mp4" << false;
        QTest::newRow("vp9") << int(VideoFormat::vp9) << "video.webm" << false;
        QTest::newRow("prores") << int(VideoFormat::prores) << "video.mov" << false;
        QTest::newRow("prores alone") << int(VideoFormat::prores) << "video.mov" << true;
        QTest::newRow("png alone") << int(VideoFormat::png) << "video-png.mov" << true;
    }
    void video_has_every_frame() {
        QFETCH(int, format);
        QFETCH(QString, name);
        QFETCH(bool, alone);
        const QString folder = path("video-" + QString(QTest::currentDataTag()).replace(' ', '-'));
        BakeOrder order = order_of("sluice-spray.ember.json", folder);
        order.span.to_s = 1.5;
        const BakedPicture picture{256, 160, alone};
        const auto refused = refusal_of_video(order, picture, VideoFormat(format));
        QVERIFY2(!refused, refused ? refused->text().c_str() : "");
        const auto painter = bake_painter();
        BakeWriters writers;
        writers.push_back(picture_files(order, painter, picture, PictureFormat::png8));
        writers.push_back(video_file(order, painter, picture, VideoFormat(format)));
        const BakeResult result = bake(order, writers);
        QVERIFY2(!result.problem, result.problem ? result.problem->text().c_str() : "");
        const std::vector<QImage> frames = decoded(folder + "/" + name);
        QCOMPARE(frames.size(), size_t(order.frames()));
        for (const int number : {0, 13, 29}) {
            const QImage still(numbered(folder, number));
            QVERIFY2(psnr(frames[size_t(number)], still) > 38,
                     qPrintable(QString::number(psnr(frames[size_t(number)], still))));
            if (alone) {
                int apart = 0;
                for (int x = 0; x < still.width(); ++x) {
                    apart = std::max(apart, std::abs(qAlpha(still.pixel(x, 80)) -
                                                     qAlpha(frames[size_t(number)].pixel(x, 80))));
                }
                QVERIFY(apart <= 3);
            }
        }
        // The same again to the byte.
        BakeOrder again = order;
        again.folder += "-again";
        BakeWriters second;
        second.push_back(video_file(again, bake_painter(), picture, VideoFormat(format)));
        QVERIFY(!bake(again, second).problem);
        QFile one(folder + "/" + name), other(folder + "-again/" + name);
        QVERIFY(one.open(QIODevice::ReadOnly) && other.open(QIODevice::ReadOnly));
        QVERIFY(one.readAll() == other.readAll());
    }

    void videos_that_cannot_be_are_refused() {
        const BakeOrder order = order_of("sluice-spray.ember.json", path("odd"));
        QVERIFY(refusal_of_video(order, {161, 100}, VideoFormat::h264)->expected.find("even") !=
                std::string::npos);
        QVERIFY(refusal_of_video(order, {160, 100, true}, VideoFormat::vp9).has_value());
        QVERIFY(!refusal_of_video(order, {160, 100, true}, VideoFormat::png).has_value());
    }

    void motion_vectors_show_what_lies_between_two_pictures() {
        std::vector<Image> frames;
        for (int i = 0; i < 6; ++i) {
            frames.push_back(balls_at(i));
        }
        const SpriteSheet sheet = sheet_of(frames, {});
        double by_motion = 0, by_fading = 0;
        for (int i = 0; i < 5; ++i) {
            const Image whole = balls_at(i + 0.5);
            Image truth{sheet.cell_width, sheet.cell_height, {}};
            for (int y = 0; y < sheet.cell_height; ++y) {
                for (int x = 0; x < sheet.cell_width; ++x) {
                    truth.pixels.push_back(whole.at(sheet.trimmed_left + x, sheet.trimmed_top + y));
                }
            }
            by_motion += difference_of(played(sheet, i + 0.5), truth);
            by_fading += difference_of(faded(played(sheet, i), played(sheet, i + 1), 0.5f), truth);
        }
        QVERIFY2(by_motion < 0.5 * by_fading, qPrintable(QString("%1 %2").arg(by_motion).arg(by_fading)));
    }

    void a_sheet_is_trimmed_laid_out_and_read_again() {
        std::vector<Image> frames;
        for (int i = 0; i < 7; ++i) {
            frames.push_back(balls_at(i * 0.4));
        }
        const SpriteSheet sheet = sheet_of(frames, {});
        QCOMPARE(sheet.frames, 7);
        QVERIFY(sheet.columns * sheet.rows >= 7 && sheet.columns * sheet.rows < 7 + sheet.columns);
        QVERIFY(sheet.cell_width < 96 && sheet.cell_width > 30);
        for (int frame = 0; frame < 7; ++frame) {
            const int left = frame % sheet.columns * sheet.cell_width,
                      top = frame / sheet.columns * sheet.cell_height;
            for (int y = 0; y < sheet.cell_height; y += 3) {
                for (int x = 0; x < sheet.cell_width; x += 3) {
                    QCOMPARE(sheet.colours.at(left + x, top + y).red,
                             frames[size_t(frame)].at(sheet.trimmed_left + x, sheet.trimmed_top + y).red);
                }
            }
        }
        QVERIFY(!write_sheet(sheet, 24, folder_.path().toStdString()));
        QFile json(path("sheet.json"));
        QVERIFY(json.open(QIODevice::ReadOnly));
        const QJsonObject told = QJsonDocument::fromJson(json.readAll()).object();
        QCOMPARE(told["frames"].toInt(), 7);
        QCOMPARE(told["cell_px"].toArray()[0].toInt(), sheet.cell_width);
        const QImage colours(path("sheet.png")), motion(path("sheet-motion.png")),
            normals(path("sheet-normals.png"));
        QCOMPARE(colours.size(), QSize(sheet.columns * sheet.cell_width, sheet.rows * sheet.cell_height));
        QCOMPARE(motion.size(), colours.size());
        QCOMPARE(normals.size(), colours.size());
    }

    void loops_join() {
        // A ball that goes round in 12 frames; 20 are there.
        std::vector<Image> frames;
        for (int i = 0; i < 20; ++i) {
            const double angle = i * 2 * M_PI / 12;
            Image image{64, 64, std::vector<Colour>(64 * 64, Colour{0, 0, 0, 0})};
            for (int y = 0; y < 64; ++y) {
                for (int x = 0; x < 64; ++x) {
                    const double dx = x - 32 - 18 * std::cos(angle), dy = y - 32 - 18 * std::sin(angle);
                    const float light = float(std::exp(-(dx * dx + dy * dy) / 30));
                    image.pixels[size_t(y) * 64 + size_t(x)] = {light, light, light, light};
                }
            }
            frames.push_back(image);
        }
        SheetChoice choice;
        choice.has_motion = choice.has_normals = false;
        QCOMPARE(sheet_of(frames, choice).frames, 20);
        choice.loop = SheetLoop::find;
        QCOMPARE(sheet_of(frames, choice).frames, 12);
        choice.loop = SheetLoop::fade;
        const SpriteSheet fading = sheet_of(frames, choice);
        QCOMPARE(fading.frames, 15);
        // Its end goes on as its beginning does: no jump is larger than within it.
        QVERIFY(fading.seam < 1.5 * difference_of(frames[7], frames[8]));
    }

    void what_replaces_a_sheet_leaves_nothing_of_it() {
        BakeOrder order = order_of("sluice-spray.ember.json", path("replaced"));
        order.span.to_s = 0.6;
        const auto bake_sheet = [&](const SheetChoice& choice) {
            BakeWriters writers;
            writers.push_back(sheet_files(order, bake_painter(), 48, 32, choice));
            return !bake(order, writers).problem;
        };
        QVERIFY(bake_sheet({}));
        QVERIFY(QFile::exists(path("replaced/sheet/sheet-motion.png")));
        order.replaces = true;
        order.span.to_s = 0.7;
        QVERIFY(bake_sheet({.has_motion = false}));
        QVERIFY(QFile::exists(path("replaced/sheet/sheet.png")) &&
                QFile::exists(path("replaced/sheet/sheet.json")));
        QVERIFY(!QFile::exists(path("replaced/sheet/sheet-motion.png")));
    }

    void sheets_that_are_too_large_are_refused() {
        QVERIFY(!refusal_of_sheet(64, 256, 256));
        QVERIFY(refusal_of_sheet(0, 256, 256) && refusal_of_sheet(5000, 8, 8) &&
                refusal_of_sheet(64, 4096, 4096));
    }
};

QTEST_GUILESS_MAIN(TestBakePictures)
#include "tst_bake_pictures.moc"
