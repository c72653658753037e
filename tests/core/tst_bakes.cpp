// What is written for other programs: read back by others' libraries, resumed, refused.
#include "core/assets/vector_grid.h"
#include "core/bake/bake.h"
#include "core/effect/edit.h"
#include "core/smoke/volume.h"
#include "demos.h"
#include "read_back.h"
#include "sample_effects.h"

#include <QDirIterator>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>

#include <cmath>
#include <csignal>
#include <cstring>
#include <sys/resource.h>

using namespace ember;
using namespace ember::sample;

namespace {

// Sparks, smoke that rises, and a block that breaks on the ground.
Effect mixed_effect() {
    Emitter sparks = still(120, 0.8f);
    sparks.shape = BirthShape::ball;
    sparks.speed = {0.5f, 2};
    Effect effect = effect_of(sparks, {Gravity{}});
    Breakable block;
    block.position = {0, 1.2f, 0};
    block.stands = false;
    block.pieces = 8;
    block.strength = 1;
    effect.elements.push_back({.id = "block", .name = "Block", .body = block});
    Dropper dropper;
    dropper.position = {0, 1.2f, 0};
    dropper.drops = "block";
    dropper.first = 0.1f;
    dropper.every = 0;
    effect.elements.push_back({.id = "dropper", .name = "Dropper", .body = dropper});
    effect.elements.push_back(
        {.id = "fall", .name = "Fall", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}});
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}});
    Smoke smoke;
    smoke.position = {2, 1, 0};
    smoke.size = {1, 1, 1};
    smoke.resolution = 16;
    effect.elements.push_back({.id = "smoke", .name = "Smoke", .body = smoke});
    SmokeSource source;
    source.position = {2, 0.7f, 0};
    effect.elements.push_back({.id = "kettle", .name = "Kettle", .body = source});
    return effect;
}

BakeOrder order_of(const Effect& effect, const QString& folder) {
    BakeOrder order;
    order.effect = shared(effect);
    order.assets = AssetLibrary().load(effect, ".").assets;
    order.span = {0.2, 1.2};
    order.frames_per_s = 20;
    order.folder = folder.toStdString();
    return order;
}

BakeWriters all_writers(const BakeOrder& order) {
    BakeWriters writers;
    for (const auto make : {particle_files, particle_motion_file, smoke_files, piece_file, piece_textures}) {
        writers.push_back(make(order));
    }
    return writers;
}

QByteArray bytes_of(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray("unreadable");
}

std::map<QString, QByteArray> files_in(const QString& folder) {
    std::map<QString, QByteArray> files;
    for (QDirIterator each(folder, QDir::Files, QDirIterator::Subdirectories); each.hasNext();) {
        const QString path = each.next();
        files[path.mid(folder.size())] = bytes_of(path);
    }
    return files;
}

// Places and ids of a file of particles.
std::map<std::pair<uint32_t, uint32_t>, Vec3> particles_in(const QByteArray& ply) {
    std::map<std::pair<uint32_t, uint32_t>, Vec3> found;
    const auto begin = ply.indexOf("end_header\n") + 11;
    constexpr int record = 80;
    for (auto at = begin; at + record <= ply.size(); at += record) {
        float place[3];
        uint32_t id[2];
        std::memcpy(place, ply.constData() + at, sizeof place);
        std::memcpy(id, ply.constData() + at + 72, sizeof id);
        found[{id[1], id[0]}] = {place[0], place[1], place[2]};
    }
    return found;
}

Simulation run_to(const BakeOrder& order, int frame) {
    Simulation simulation;
    simulation.set_effect(order.effect, order.assets);
    while (simulation.steps() < simulation.warm_up_steps() + order.step_of(frame)) {
        simulation.step();
    }
    return simulation;
}

} // namespace

class TestBakes : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString path(const QString& name) const { return folder_.filePath(name); }

  private slots:
    void frames_hold_what_the_run_held() {
        const BakeOrder order = order_of(mixed_effect(), path("all"));
        QCOMPARE(order.frames(), 20);
        const BakeResult result = bake(order, all_writers(order));
        QVERIFY2(!result.problem, result.problem ? result.problem->text().c_str() : "");
        QCOMPARE(result.frames, 20);
        for (const int number : {0, 7, 19}) {
            const Simulation simulation = run_to(order, number);
            const auto written =
                particles_in(bytes_of(path(QString("all/particles/%1.ply").arg(number, 5, 10, QChar('0')))));
            const auto expected = particles(simulation);
            QVERIFY(!expected.empty());
            QCOMPARE(written.size(), expected.size());
            for (const ParticleState& particle : expected) {
                QCOMPARE(length(written.at({0, particle.number}) - particle.position), 0.0f);
            }
        }
    }

    void smoke_is_read_by_openvdb() {
        const QString file = path("all/smoke/00012.vdb");
        const BakeOrder order = order_of(mixed_effect(), path("all"));
        const Simulation simulation = run_to(order, 12);
        const SmokeVolume& volume = *simulation.find_smoke("smoke");
        const auto grids = read_grids(file.toStdString());
        QCOMPARE(grids.size(), size_t(3));
        const ReadGrid& density = grids.at("density");
        QVERIFY(density.is_half && density.active > 50);
        QVERIFY(std::abs(density.voxel.x - volume.size().cell) < 1e-6f);
        QVERIFY(std::abs(density.sum / volume.mass() - 1) < 2e-3);
        QVERIFY(grids.at("velocity").sum > 0);
        int compared = 0;
        for (int z = 0; z < volume.size().z; ++z) {
            for (int y = 0; y < volume.size().y; y += 3) {
                for (int x = 0; x < volume.size().x; x += 5) {
                    const float here = volume.cells()[volume.size().packed(x, y, z)].density;
                    const float there =
                        value_at(file.toStdString(), "density", volume.size().middle(x, y, z));
                    QVERIFY(std::abs(here - there) <= 1e-3f * here + 1e-6f);
                    compared += here > 0 ? 1 : 0;
                }
            }
        }
        QVERIFY(compared > 5);
    }

    // Each force, and their sum, at the places of the box; our own grid flow reads the first of them again.
    void forces_are_read_as_vectors() {
        Effect effect = mixed_effect();
        Wind wind;
        wind.reach = ReachShape::ball;
        effect.elements.push_back({.id = "wind", .name = "Wind", .body = wind});
        effect = with_link(effect, "wind", effect.elements[0].id, 0.5f);
        BakeOrder order = order_of(effect, path("forces"));
        order.field_box = FieldBox{{-1, 0, -0.5f}, {1, 1, 0.5f}, 9};
        BakeWriters writers;
        writers.push_back(field_files(order));
        QVERIFY(!bake(order, writers).problem);
        const std::string file = path("forces/fields/00003.vdb").toStdString();
        const auto grids = read_grids(file);
        const std::string sum = "sum on " + effect.elements[0].id;
        QVERIFY(grids.contains("wind") && grids.contains(sum));
        QVERIFY(grids.at("wind").is_half && std::abs(grids.at("wind").voxel.x - 0.25) < 1e-6);
        Problems problems;
        const auto read = read_vectors(file, 64, problems);
        QVERIFY(read);
        QCOMPARE(read->count, (std::array<int, 3>{9, 5, 5}));
        const Simulation simulation = run_to(order, 3);
        std::string first;
        for (const auto& [name, grid] : grids) {
            first = first.empty() || name < first ? name : first; // in the order of their names
        }
        FieldOrder wanted;
        wanted.places = order.field_box->places();
        const auto expected = [&](const std::string& influence, const std::string& source) {
            wanted.influence = influence;
            wanted.source = source;
            return simulation.read_field(wanted).vectors;
        };
        const auto all = expected("", effect.elements[0].id), one = expected("wind", "");
        QCOMPARE(all.size(), size_t(9 * 5 * 5));
        QVERIFY(length(one[112]) > 0.1f);
        const auto is_read = [&](const std::vector<Vec3>& vectors) {
            for (size_t i = 0; i < vectors.size(); ++i) {
                const Vec3 there = {read->values[3 * i], read->values[3 * i + 1], read->values[3 * i + 2]};
                if (length(there - vectors[i]) > 2e-3f * length(vectors[i]) + 1e-4f) {
                    return false;
                }
            }
            return true;
        };
        QVERIFY2(is_read(first == sum ? all : expected(first, "")), first.c_str());
        order.effect = shared(effect_of(still(5, 1)));
        order.folder = path("none").toStdString();
        BakeWriters none;
        none.push_back(field_files(order));
        QVERIFY(bake(order, none).problem);
    }

    void pieces_move_as_they_did() {
        const BakeOrder order = order_of(mixed_effect(), path("all"));
        const auto nodes = read_glb(path("all/pieces.glb").toStdString());
        const auto place = read_channel(path("all/piece-textures/place.exr").toStdString(), "R");
        const auto sizes = read_channel(path("all/piece-textures/place.exr").toStdString(), "A");
        const size_t columns = place.size() / 20;
        int compared = 0, in_textures = 0;
        for (const int number : {4, 9, 19}) {
            Frame frame;
            run_to(order, number).write_frame(frame);
            for (const FramePiece& piece : frame.debris.at(0).pieces) {
                const std::string name = "block piece " + std::to_string(piece.number);
                const auto node = std::find_if(nodes.begin(), nodes.end(),
                                               [&](const ReadNode& each) { return each.name == name; });
                QVERIFY(node != nodes.end());
                QVERIFY(node->corners > 0);
                const Vec3 there = node->place_at(number / 20.0);
                QVERIFY2(length(there - piece.placement.position) < 1.01e-3f,
                         qPrintable(QString::fromStdString(name) +
                                    QString::number(length(there - piece.placement.position))));
                ++compared;
            }
            for (size_t column = 0; column < columns; ++column) {
                const size_t at = size_t(number) * columns + column;
                in_textures += sizes[at] > 0 ? 1 : 0;
            }
            QCOMPARE(in_textures, compared);
        }
        QVERIFY(compared > 10);
        // Before it is dropped nothing of it is there.
        QVERIFY(std::count_if(nodes.begin(), nodes.end(),
                              [](const ReadNode& node) { return node.scale == 0; }) >= 0);
    }

    // As decode.vert does it, in C++: each piece's corners where the run had them.
    void textures_put_each_piece_within_a_millimetre() {
        const BakeOrder order = order_of(mixed_effect(), path("all"));
        const QString folder = path("all/piece-textures/");
        const QJsonObject facts = QJsonDocument::fromJson(bytes_of(folder + "decode.json")).object();
        const int columns = facts["pieces"].toInt();
        const QImage codes(folder + "place.png"), turns(folder + "turn.png");
        QCOMPARE(codes.size(), QSize(columns, 20));
        QCOMPARE(codes.format(), QImage::Format_RGBA64);
        const auto bound = [&](const char* which, int axis) {
            return facts[which].toArray()[axis].toDouble();
        };
        Frame frame;
        run_to(order, 15).write_frame(frame);
        int found = 0;
        for (const FramePiece& piece : frame.debris.at(0).pieces) {
            const Quaternion truth = Quaternion::of(piece.placement.axes);
            float nearest = 1e9f;
            for (int column = 0; column < columns; ++column) {
                const QRgba64 code = reinterpret_cast<const QRgba64*>(codes.constScanLine(15))[column];
                const QRgba64 turn = reinterpret_cast<const QRgba64*>(turns.constScanLine(15))[column];
                const auto on = [&](quint16 part, int axis) {
                    const double low = bound("box_low_m", axis), high = bound("box_high_m", axis);
                    return float(low + (high - low) * part / 65535.0);
                };
                const auto back = [](quint16 part) { return float(part) / 65535.0f * 2 - 1; };
                const Vec3 middle = {on(code.red(), 0), on(code.green(), 1), on(code.blue(), 2)};
                const Quaternion q = {{back(turn.red()), back(turn.green()), back(turn.blue())},
                                      back(turn.alpha())};
                const float size = std::sqrt(dot(q.v, q.v) + q.w * q.w);
                const Axes axes = Quaternion{q.v / size, q.w / size}.axes();
                float most = 0;
                for (const Vec3& corner : frame.debris[0].cut->pieces[piece.piece].mesh.corners) {
                    const Vec3 there = middle + axes.out(corner);
                    const Vec3 here = piece.placement.position + truth.axes().out(corner);
                    most = std::max(most, length(there - here));
                }
                nearest = std::min(nearest, most);
            }
            QVERIFY2(nearest < 1e-3f, qPrintable(QString::number(nearest)));
            ++found;
        }
        QVERIFY(found > 3);
    }

    void particles_of_a_short_run_are_one_file() {
        const BakeOrder order = order_of(mixed_effect(), path("all"));
        const auto nodes = read_glb(path("all/particles.glb").toStdString());
        const Simulation simulation = run_to(order, 11);
        for (const ParticleState& particle : particles(simulation)) {
            const std::string name = "e " + std::to_string(particle.number);
            const auto node = std::find_if(nodes.begin(), nodes.end(),
                                           [&](const ReadNode& each) { return each.name == name; });
            QVERIFY(node != nodes.end());
            QVERIFY(length(node->place_at(11 / 20.0) - particle.position) < 1.01e-3f);
        }
    }

    void a_bake_that_was_stopped_goes_on_to_the_same_bytes() {
        const Effect effect = mixed_effect();
        const BakeOrder whole = order_of(effect, path("whole")), parts = order_of(effect, path("parts"));
        QVERIFY(!bake(whole, all_writers(whole)).problem);
        int rounds = 0;
        for (int most = 9; rounds < 30; most += 17, ++rounds) {
            int asked = 0;
            // Left where it was, with a file that was being written.
            const BakeResult result =
                bake(parts, all_writers(parts), {[&](const std::string&, float) { return ++asked < most; }});
            QVERIFY(!result.problem);
            if (!result.is_cancelled) {
                break;
            }
            QFile half(path(QString("parts/particles/%1.ply.part4242").arg(rounds, 5, 10, QChar('0'))));
            QVERIFY(half.open(QIODevice::WriteOnly));
            half.write("ply\n");
        }
        QVERIFY(rounds > 1 && rounds < 30);
        const auto expected = files_in(path("whole")), found = files_in(path("parts"));
        QCOMPARE(found.size(), expected.size());
        for (const auto& [name, bytes] : expected) {
            QVERIFY2(found.contains(name) && found.at(name) == bytes, qPrintable(name));
        }
    }

    // Files end where the disk does; each kind by itself.
    void a_full_disk_is_said_and_the_bake_goes_on_later() {
        const auto undisturbed = files_in(path("all"));
        QVERIFY(!undisturbed.empty());
        std::signal(SIGXFSZ, SIG_IGN);
        rlimit before{};
        QCOMPARE(getrlimit(RLIMIT_FSIZE, &before), 0);
        int number = 0;
        for (const auto make :
             {particle_files, particle_motion_file, smoke_files, piece_file, piece_textures}) {
            const QString name = QString("full-%1").arg(++number);
            const BakeOrder order = order_of(mixed_effect(), path(name));
            const auto bake_one = [&] {
                BakeWriters writers;
                writers.push_back(make(order));
                return bake(order, writers);
            };
            const rlimit small = {2000, before.rlim_max};
            QCOMPARE(setrlimit(RLIMIT_FSIZE, &small), 0);
            const BakeResult full = bake_one();
            QCOMPARE(setrlimit(RLIMIT_FSIZE, &before), 0);
            QVERIFY2(full.problem, qPrintable(name));
            QVERIFY2(full.problem->file.find(name.toStdString()) != std::string::npos,
                     full.problem->text().c_str());
            // What is there is whole.
            for (const auto& [file, bytes] : files_in(path(name))) {
                if (!file.endsWith("bake.json")) {
                    QVERIFY2(undisturbed.contains(file) && undisturbed.at(file) == bytes, qPrintable(file));
                }
            }
            QVERIFY(!bake_one().problem);
            int same = 0;
            for (const auto& [file, bytes] : files_in(path(name))) {
                same += undisturbed.contains(file) && undisturbed.at(file) == bytes ? 1 : 0;
            }
            QVERIFY2(same > 0, qPrintable(name));
        }
    }

    void what_is_there_already_is_not_overwritten_unasked() {
        const Effect effect = mixed_effect();
        BakeOrder order = order_of(effect, path("mine"));
        QDir().mkpath(path("mine"));
        QFile letter(path("mine/letter.txt"));
        QVERIFY(letter.open(QIODevice::WriteOnly));
        letter.write("keep me");
        letter.close();
        BakeWriters writers;
        writers.push_back(particle_files(order));
        for (const bool replaces : {false, true}) { // it is no bake that could be replaced
            order.replaces = replaces;
            QVERIFY(bake(order, writers).problem->found.find("other files") != std::string::npos);
        }
        order.replaces = false;
        // What was killed before it had begun is no reason not to begin.
        QDir().mkpath(path("killed"));
        QFile left(path("killed/bake.json.part77"));
        QVERIFY(left.open(QIODevice::WriteOnly));
        left.close();
        const BakeOrder killed = order_of(effect, path("killed"));
        BakeWriters to_killed;
        to_killed.push_back(particle_files(killed));
        QVERIFY(!bake(killed, to_killed).problem);
        QVERIFY(!left.exists() && QFile::exists(path("killed/bake.json")));
        order.folder = path("whole").toStdString();
        order.span.to_s = 0.5;
        QVERIFY(bake(order, writers).problem->found.find("another bake") != std::string::npos);
        order.replaces = true;
        // Files that are not the bake's stay, whatever the one before says is its own.
        QFile own(path("whole/particles/notes.txt"));
        QVERIFY(own.open(QIODevice::WriteOnly));
        own.close();
        QFile manifest(path("whole/bake.json"));
        QVERIFY(manifest.open(QIODevice::ReadOnly));
        QJsonObject told = QJsonDocument::fromJson(manifest.readAll()).object();
        manifest.close();
        QJsonArray files = told["files"].toArray();
        for (const char* wrong : {".", "..", "../mine/letter.txt", "particles", "", "/", "particles/."}) {
            files.append(QJsonObject{{"kind", "x"}, {"files", wrong}});
        }
        told["files"] = files;
        QVERIFY(manifest.open(QIODevice::WriteOnly));
        manifest.write(QJsonDocument(told).toJson());
        manifest.close();
        BakeWriters again;
        again.push_back(particle_files(order));
        QVERIFY(!bake(order, again).problem);
        QCOMPARE(QDir(path("whole/particles")).entryList({"*.ply"}, QDir::Files).size(),
                 qsizetype(order.frames()));
        QVERIFY(own.exists());
        QVERIFY(!QFile::exists(path("whole/pieces.glb"))); // of the bake before
        QCOMPARE(bytes_of(path("mine/letter.txt")), QByteArray("keep me"));
    }

    void orders_that_make_no_sense_are_refused_before_work_starts() {
        const Effect effect = mixed_effect();
        const auto refused = [&](auto change) {
            BakeOrder order = order_of(effect, path("refused"));
            change(order);
            BakeWriters writers;
            writers.push_back(particle_files(order));
            const BakeResult result = bake(order, writers, {[](const std::string&, float) {
                                               qFatal("it began");
                                               return true;
                                           }});
            return result.problem
                       ? QString::fromStdString(result.problem->place + ": " + result.problem->expected)
                       : QString();
        };
        const double nan = std::nan("");
        for (const Span span :
             {Span{1, 1}, Span{2, 1}, Span{-1, 1}, Span{0, nan}, Span{nan, 2}, Span{0, 1e12}}) {
            QVERIFY(refused([&](BakeOrder& order) { order.span = span; }).startsWith("span: "));
        }
        for (const double rate : {0.0, -1.0, 61.0, 1e9, nan}) {
            QVERIFY(refused([&](BakeOrder& order) {
                        order.frames_per_s = rate;
                    }).startsWith("frames per second: "));
        }
        // Nothing of a kind.
        Effect plain = effect_of(still(10, 1));
        const BakeOrder nothing = order_of(plain, path("refused"));
        for (const auto make : {smoke_files, piece_file, piece_textures}) {
            BakeWriters writers;
            writers.push_back(make(nothing));
            QVERIFY(bake(nothing, writers).problem->found.find("an effect without") == 0);
        }
        // Behind the effect's end.
        Effect ending = effect;
        ending.stage.length = 1;
        QVERIFY(refused([&](BakeOrder& order) {
                    order.effect = shared(ending);
                    order.span = {0, 1.5};
                }).contains("where the effect ends"));
        QVERIFY(refused([&](BakeOrder& order) { order.sources = {"nobody"}; }).startsWith("sources: "));
        QVERIFY(!refused([&](BakeOrder& order) { order.folder = "/proc/nowhere"; }).isEmpty());
        QVERIFY(!refused([&](BakeOrder& order) { order.folder = std::string(5000, 'x'); }).isEmpty());
        QVERIFY(!QFile::exists(path("refused/particles")));
    }

    void only_the_sources_that_were_asked_for_are_written() {
        Effect effect = mixed_effect();
        effect.elements.push_back({.id = "other", .name = "Other", .body = still(50, 1)});
        BakeOrder order = order_of(effect, path("one"));
        order.sources = {"other"};
        BakeWriters writers;
        writers.push_back(particle_files(order));
        QVERIFY(!bake(order, writers).problem);
        const auto written = particles_in(bytes_of(path("one/particles/00019.ply")));
        QVERIFY(!written.empty());
        for (const auto& [id, place] : written) {
            QCOMPARE(id.first, 1u); // the second source
        }
    }

    // What a take holds is run again: its own effect, and what reached it.
    void a_take_is_baked_as_it_was_played() {
        const Effect effect = demo_effect("sluice-spray.ember.json");
        const Assets assets = demo_assets(effect);
        Simulation simulation;
        simulation.set_effect(shared(effect), assets);
        auto take = std::make_shared<Take>();
        take->effects[0] = shared(effect);
        for (uint64_t step = 0; step < simulation.warm_up_steps() + 40; ++step) {
            const StepInputs inputs = simulation.is_warming_up() ? StepInputs() : people_at(step);
            take->inputs.add(step, inputs);
            simulation.step(inputs);
        }
        BakeOrder order;
        order.effect = shared(effect);
        order.take = take;
        order.assets = assets;
        order.span = {0.5, 0.6};
        order.folder = path("take").toStdString();
        BakeWriters writers;
        writers.push_back(particle_files(order));
        QVERIFY(!bake(order, writers).problem);
        Simulation again;
        again.set_effect(take->effect_at(0), assets);
        while (again.steps() < again.warm_up_steps() + order.step_of(3)) {
            again.step(inputs_of_step(*take, again));
        }
        const auto written = particles_in(bytes_of(path("take/particles/00003.ply")));
        size_t count = 0;
        for (const Element& element : effect.elements) {
            count += particles(again, element.id).size();
        }
        QVERIFY(count > 100);
        QCOMPARE(written.size(), count);
    }
};

QTEST_GUILESS_MAIN(TestBakes)
#include "tst_bakes.moc"
