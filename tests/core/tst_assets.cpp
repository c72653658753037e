// Files that effects read: what is welcome, and what is said of the rest.
#include "sample_effects.h"
#include "sample_files.h"
#include "sample_grids.h"

#include "core/assets/assets.h"
#include "core/effect/effect_file.h"

#include <QImage>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

Effect with_mesh(const std::string& file) {
    MeshCollider mesh;
    mesh.mesh = file;
    mesh.resolution = 24;
    return effect_of(single_particle({}), {mesh});
}

} // namespace

class TestAssets : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::string path(const char* name) const { return folder_.filePath(name).toStdString(); }
    LoadResult load(const Effect& effect, const Progress& progress = {}) const {
        return AssetLibrary().load(effect, folder_.path().toStdString(), progress);
    }
    // What is said of an effect with this mesh; also runs it.
    std::string said_of(const std::string& file) const {
        const Effect effect = with_mesh(file);
        const LoadResult loaded = load(effect);
        Simulation simulation;
        simulation.set_effect(shared(effect), loaded.assets);
        simulation.step();
        return loaded.missing.empty() ? "" : loaded.missing.front().text();
    }

  private slots:
    void meshes_of_every_format_are_the_same_box_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QByteArray>("text");
        QByteArray stl = "solid box\n",
                   ply = "ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nproperty "
                         "float y\nproperty float z\nelement face 12\nproperty list uchar int "
                         "vertex_indices\nend_header\n";
        QByteArray off = "OFF\n8 12 0\n";
        const auto corner = [](int i) {
            return QByteArray((i & 1) != 0 ? "1" : "-1") + ((i & 2) != 0 ? " 0.5" : " -0.5") +
                   ((i & 4) != 0 ? " 0.5" : " -0.5");
        };
        const int faces[12][3] = {{0, 2, 3}, {0, 3, 1}, {4, 5, 7}, {4, 7, 6}, {0, 4, 6}, {0, 6, 2},
                                  {1, 3, 7}, {1, 7, 5}, {0, 1, 5}, {0, 5, 4}, {2, 6, 7}, {2, 7, 3}};
        for (int i = 0; i < 8; ++i) {
            ply += corner(i) + "\n";
            off += corner(i) + "\n";
        }
        for (const auto& f : faces) {
            const QByteArray line = "3 " + QByteArray::number(f[0]) + " " + QByteArray::number(f[1]) + " " +
                                    QByteArray::number(f[2]) + "\n";
            ply += line;
            off += line;
            stl += "facet normal 0 0 0\nouter loop\n";
            for (const int i : f) {
                stl += "vertex " + corner(i) + "\n";
            }
            stl += "endloop\nendfacet\n";
        }
        stl += "endsolid box\n";
        QTest::newRow("ply") << "box.ply" << ply;
        QTest::newRow("off") << "box.off" << off;
        QTest::newRow("stl") << "box.stl" << stl;
    }
    void meshes_of_every_format_are_the_same_box() {
        QFETCH(QString, name);
        QFETCH(QByteArray, text);
        write_text(path(qPrintable(name)), text.toStdString());
        Problems problems;
        const auto mesh = read_mesh(path(qPrintable(name)), problems);
        QVERIFY2(mesh, problems.empty() ? "" : problems[0].text().c_str());
        QCOMPARE(mesh->triangles.size(), size_t(12));
        QCOMPARE(mesh->corners.size(), size_t(8));
        QCOMPARE(mesh->open_edges(), size_t(0));
        QCOMPARE(mesh->low(), Vec3(-1, -0.5f, -0.5f));
        QCOMPARE(mesh->high(), Vec3(1, 0.5f, 0.5f));
    }

    void gltf_with_a_moved_node_is_read_where_the_scene_has_it() {
        // One triangle; the positions stand in the file as base64.
        const float corners[9] = {0, 0, 0, 1, 0, 0, 0, 1, 0};
        const QByteArray data = QByteArray(reinterpret_cast<const char*>(corners), sizeof corners).toBase64();
        write_text(path("one.gltf"), gltf_of_one_triangle(data.toStdString()));
        Problems problems;
        const auto mesh = read_mesh(path("one.gltf"), problems);
        QVERIFY2(mesh, problems.empty() ? "" : problems[0].text().c_str());
        QCOMPARE(mesh->triangles.size(), size_t(1));
        QCOMPARE(mesh->low(), Vec3(0, 5, 0));
        QCOMPARE(mesh->open_edges(), size_t(3));
    }

    void bad_meshes_are_refused_with_what_is_wrong() {
        QVERIFY(said_of("nowhere.obj").find("no such file") != std::string::npos);
        write_text(path("empty.obj"), "# nothing\n");
        QVERIFY(!said_of("empty.obj").empty());
        write_text(path("points.obj"), "v 0 0 0\nv 1 0 0\n");
        QVERIFY(!said_of("points.obj").empty());
        write_text(path("nan.obj"), "v 0 0 0\nv nan 0 0\nv 0 1 0\nf 1 2 3\n");
        const std::string nan = said_of("nan.obj");
        QVERIFY2(nan.find("not finite") != std::string::npos && nan.find("corner") != std::string::npos,
                 nan.c_str());
        write_text(path("huge.obj"), "v 0 0 0\nv 1e30 0 0\nv 0 1 0\nf 1 2 3\n");
        QVERIFY(said_of("huge.obj").find("not finite or beyond") != std::string::npos);
        write_text(path("garbage.ply"), std::string(4000, '\x7f'));
        QVERIFY(!said_of("garbage.ply").empty());
        write_text(path("cut.stl"), "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0");
        QVERIFY(!said_of("cut.stl").empty());
    }

    void a_flat_mesh_as_a_collider_is_a_shell_and_does_not_hang() {
        write_text(path("flat.obj"), "v 0 0 0\nv 1 0 0\nv 0 0 1\nf 1 2 3\n");
        const LoadResult loaded = load(with_mesh("flat.obj"));
        QVERIFY(loaded.missing.empty() && loaded.notes.size() == 1);
        write_text(path("dot.obj"), "v 1 1 1\nv 1 1 1\nv 1 1 1\nf 1 2 3\n");
        QVERIFY(said_of("dot.obj").find("without any area") != std::string::npos);
    }

    void too_fine_a_grid_is_refused_with_the_memory_it_would_need() {
        write_box_mesh(path("box.obj"));
        Effect effect = with_mesh("box.obj");
        auto& mesh = std::get<MeshCollider>(effect.elements[1].body);
        mesh.scale = 10000;
        mesh.area = 0.01f;
        const LoadResult loaded = load(effect);
        QCOMPARE(loaded.missing.size(), size_t(1));
        QVERIFY(loaded.missing[0].text().find("GB") != std::string::npos);
    }

    void a_million_triangles_report_progress_and_can_be_cancelled() {
        write_ball_mesh(path("million.obj"), 500); // 2 x 500 x 1000 triangles
        int reports = 0;
        Progress counting{[&](const std::string& what, float share) {
            ++reports;
            return !what.empty() && share >= 0 && share <= 1;
        }};
        Effect effect = with_mesh("million.obj");
        const LoadResult whole = load(effect, counting);
        QVERIFY(whole.missing.empty());
        QVERIFY2(reports > 3, qPrintable(QString::number(reports)));

        int asked = 0;
        AssetLibrary library;
        const LoadResult cancelled = library.load(effect, folder_.path().toStdString(),
                                                  {[&](const std::string&, float) { return ++asked < 2; }});
        QVERIFY(cancelled.assets.by_key.empty());
        bool complete = true;
        library.ready(effect, folder_.path().toStdString(), complete);
        QVERIFY(!complete); // a second try starts anew
    }

    void grid_of_a_known_field_is_reproduced_within_one_percent() {
        // A turning flow with lift, as 33 cells over 3.2 m.
        const auto field = [](Vec3 p) { return Vec3{-p.z, 0.5f, p.x}; };
        write_vector_grid(path("turning.vdb"), 33, 0.1f, field);
        GridFlow flow;
        flow.grid = FlowGrid::file;
        flow.file = "turning.vdb";
        flow.resolution = 64;
        flow.grip = 1000;
        Effect effect = effect_of(single_particle({}), {flow});
        const LoadResult loaded = load(effect);
        QVERIFY2(loaded.missing.empty(), loaded.missing.empty() ? "" : loaded.missing[0].text().c_str());
        for (int i = 0; i < 40; ++i) {
            const Vec3 place = {std::sin(float(i)) * 1.4f, std::sin(float(i) * 1.7f) * 1.4f,
                                std::cos(float(i)) * 1.4f};
            std::get<Emitter>(effect.elements[0].body).position = place;
            Simulation simulation;
            simulation.set_effect(shared(effect), loaded.assets);
            simulation.step();
            simulation.step(); // at this grip it has the velocity of the place where it is
            const auto p = particles(simulation).at(0);
            QVERIFY2(
                length(p.velocity - field(p.position)) < 0.02f * length(p.velocity),
                qPrintable(QStringLiteral("%1 %2 %3").arg(p.velocity.x).arg(p.velocity.y).arg(p.velocity.z)));
        }
        // Coarser than the file, and scaled.
        std::get<GridFlow>(effect.elements[1].body).resolution = 16;
        std::get<GridFlow>(effect.elements[1].body).scale = 2;
        std::get<Emitter>(effect.elements[0].body).position = {2, 0, 1};
        Simulation simulation;
        simulation.set_effect(shared(effect), load(effect).assets);
        simulation.step();
        simulation.step();
        const auto p = particles(simulation).at(0);
        QVERIFY(length(p.velocity - field(p.position / 2.0f)) < 0.02f);
    }

    void flow_of_a_mesh_draws_to_it_and_round_it() {
        write_ball_mesh(path("ball.obj"));
        GridFlow flow;
        flow.grid = FlowGrid::mesh;
        flow.mesh = "ball.obj";
        flow.resolution = 48;
        flow.attraction = 1;
        flow.swirl = 0;
        flow.speed = 0.5f;
        flow.grip = 200;
        Effect effect = effect_of(single_particle({1.1f, 0, 0}), {flow});
        const LoadResult loaded = load(effect);
        QVERIFY(loaded.missing.empty());
        const auto velocity = [&] {
            Simulation simulation;
            simulation.set_effect(shared(effect), loaded.assets);
            simulation.step();
            simulation.step();
            return particles(simulation).at(0).velocity;
        };
        QVERIFY(length(velocity() - Vec3{-0.5f, 0, 0}) < 0.03f);
        auto& now = std::get<GridFlow>(effect.elements[1].body);
        now.attraction = 0;
        now.swirl = 1;
        QVERIFY(length(velocity() - Vec3{0, 0, -0.5f}) < 0.03f); // about y, from x to -z
    }

    void triangles_that_are_left_out_are_counted_and_said() {
        write_text(path("left-out.ply"),
                   "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty "
                   "float z\nelement face 5\n"
                   "property list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n"
                   "3 0 1 2\n3 0 1 3\n3 0 2 3\n3 1 2 9\n3 1 2 3\n");
        // The same in glTF: four corners, five triangles, the fourth of which names a tenth corner.
        write_text(
            path("left-out.gltf"),
            R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}], "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}], "buffers": [{"byteLength": 78, "uri": "data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAAAAAAAAAAAAIA/AAABAAIAAAABAAMAAAACAAMAAQACAAkAAQACAAMA"}], "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 30}], "accessors": [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 1]}, {"bufferView": 1, "componentType": 5123, "count": 15, "type": "SCALAR"}]})");
        for (const char* name : {"left-out.ply", "left-out.gltf"}) {
            Problems problems;
            const auto mesh = read_mesh(path(name), problems);
            QVERIFY2(mesh && mesh->triangles.size() == 4, name);
            QCOMPARE(problems.size(), size_t(1));
            QVERIFY2(problems[0].text().find("1 triangle without three corners") != std::string::npos,
                     problems[0].text().c_str());
        }
    }

    void swirl_goes_about_an_axis_or_the_shapes_own_way() {
        // A rod that lies along a slope, and a disc across it: both have that slope as their own way.
        const Vec3 way = normalized(Vec3{2, 0.6f, -1});
        const Axes lies = {way, normalized(cross({0, 1, 0}, way)),
                           cross(way, normalized(cross({0, 1, 0}, way)))};
        const Vec3 slabs[] = {{1, 0.12f, 0.12f}, {0.1f, 0.8f, 0.8f}};
        for (const Vec3& half : slabs) {
            std::string text;
            for (int i = 0; i < 8; ++i) {
                const Vec3 p = lies.out(
                    Vec3{i & 1 ? half.x : -half.x, i & 2 ? half.y : -half.y, i & 4 ? half.z : -half.z});
                text +=
                    "v " + std::to_string(p.x) + " " + std::to_string(p.y) + " " + std::to_string(p.z) + "\n";
            }
            text += "f 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n";
            write_text(path("slab.obj"), text);
            GridFlow flow;
            flow.grid = FlowGrid::mesh;
            flow.mesh = "slab.obj";
            flow.attraction = 0;
            flow.speed = 1;
            flow.grip = 200;
            for (const SwirlAbout about : {SwirlAbout::own, SwirlAbout::x, SwirlAbout::z}) {
                flow.swirl_about = about;
                // Beside the shape, a little above its widest face.
                const Vec3 out = half.x > half.y ? lies.y : normalized(lies.y + lies.z);
                const Vec3 place = out * (half.x > half.y ? 0.25f : 1.2f);
                const Effect effect = effect_of(single_particle(place), {flow});
                Simulation simulation;
                simulation.set_effect(shared(effect), load(effect).assets);
                simulation.step();
                simulation.step();
                const Vec3 axis = about == SwirlAbout::own ? way
                                  : about == SwirlAbout::x ? Vec3{1, 0, 0}
                                                           : Vec3{0, 0, 1};
                const Vec3 wanted = cross(axis, out), got = particles(simulation).at(0).velocity;
                const float agree = dot(wanted, got) / length(wanted) / std::max(length(got), 1e-6f);
                QVERIFY2(std::abs(agree) > 0.95f && (about == SwirlAbout::own || agree > 0),
                         qPrintable(QString::number(double(agree))));
            }
        }
    }

    void vector_files_without_vectors_are_refused() {
        write_density_grid(path("density.vdb"));
        GridFlow flow;
        flow.grid = FlowGrid::file;
        flow.file = "density.vdb";
        const LoadResult loaded = load(effect_of(single_particle({}), {flow}));
        QCOMPARE(loaded.missing.size(), size_t(1));
        QVERIFY2(loaded.missing[0].text().find("only density (float), expected a grid of vectors") !=
                     std::string::npos,
                 loaded.missing[0].text().c_str());
        flow.file = "garbage.vdb";
        write_text(path("garbage.vdb"), "not a grid");
        QVERIFY(load(effect_of(single_particle({}), {flow})).missing[0].text().find("unreadable") !=
                std::string::npos);
        // What would not fit is refused by what it says of itself, before it is read.
        Problems vast, sound;
        write_grid_that_says(path("vast.vdb"), int64_t(3) << 30);
        QVERIFY(!read_vectors(path("vast.vdb"), 64, vast));
        QVERIFY2(vast.at(0).text().find("3072 MB") != std::string::npos, vast.at(0).text().c_str());
        write_grid_that_says(path("small.vdb"), 4096);
        QVERIFY(read_vectors(path("small.vdb"), 64, sound));
        write_vector_grid(path("nan.vdb"), 4, 1, [](Vec3) { return Vec3{std::nanf(""), 0, 0}; });
        flow.file = "nan.vdb";
        QVERIFY(load(effect_of(single_particle({}), {flow})).missing[0].text().find("not finite") !=
                std::string::npos);
    }

    void images_and_keys_say_what_is_wrong() {
        HeightMap map;
        map.image = "small.png";
        QImage(1, 1, QImage::Format_Grayscale8).save(folder_.filePath("small.png"));
        QVERIFY(load(effect_of(single_particle({}), {map})).missing[0].text().find("1x1 pixels") !=
                std::string::npos);
        map.image = "text.png";
        write_text(path("text.png"), "hello");
        QVERIFY(load(effect_of(single_particle({}), {map})).missing[0].text().find("PNG") !=
                std::string::npos);

        Effect effect = effect_of(single_particle({}));
        effect.elements.push_back({.id = "m", .name = "M", .body = KeyedMover{{}, "keys.csv"}});
        const auto said = [&](const char* text) {
            write_text(path("keys.csv"), text);
            const LoadResult loaded = load(effect);
            return loaded.missing.empty() ? std::string() : loaded.missing[0].text();
        };
        QVERIFY(said("0,1,2,3\n1,2,3,4\n").empty());
        QVERIFY(said("0,1,2,3\n0,2,3,4\n").find("keys.csv:2: ") != std::string::npos); // time stands still
        QVERIFY(said("0,1,2,3\n1,2,x,4\n").find(":2: ") != std::string::npos);
        QVERIFY(said("0,1,2,inf\n").find("no keys") != std::string::npos || !said("0,1,2,inf\n").empty());
        QVERIFY(said("").find("no keys") != std::string::npos);
    }

    void sixteen_bit_heights_are_read_in_full() {
        QImage image(4, 4, QImage::Format_Grayscale16);
        for (int y = 0; y < 4; ++y) {
            auto* row = reinterpret_cast<quint16*>(image.scanLine(y));
            for (int x = 0; x < 4; ++x) {
                row[x] = quint16(1000 * x + 7 * y);
            }
        }
        QVERIFY(image.save(folder_.filePath("deep.png")));
        Problems problems;
        const auto heights = read_heights(path("deep.png"), problems);
        QVERIFY(heights && heights->width == 4);
        QVERIFY(std::abs(heights->values[4 * 3 + 2] * 65535 - 2021) < 1.5f);
    }

    void paths_out_of_the_effects_folder_are_refused() {
        for (const char* file : {"../secret.obj", "/etc/passwd", "a/../../b.obj"}) {
            Effect effect = with_mesh("box.obj");
            std::string text = effect_text(effect);
            const size_t at = text.find("box.obj");
            text.replace(at, 7, file);
            const ReadResult read = parse_effect(text, "x");
            QVERIFY2(!read.is_sound() && read.problems[0].place == "/elements/1/parameters/mesh", file);
        }
    }

    void one_file_is_read_once_for_many_elements() {
        write_box_mesh(path("box.obj"));
        MeshCollider mesh;
        mesh.mesh = "box.obj";
        const Effect effect = effect_of(single_particle({}), {mesh, mesh});
        const LoadResult loaded = load(effect);
        QCOMPARE(loaded.assets.by_key.size(), size_t(1));
    }

    void an_edit_takes_over_what_it_does_not_touch() {
        GridFlow flow;
        Effect effect = effect_of(single_particle({}), {flow});
        const PreparedEffect before = prepared(shared(effect), {}, {});
        std::get<GridFlow>(effect.elements[1].body).speed = 3;
        const PreparedEffect after = prepared(shared(effect), {}, before);
        QVERIFY(before.elements[0] == after.elements[0]);
        QVERIFY(before.elements[1] != after.elements[1] &&
                before.elements[1]->grid == after.elements[1]->grid);
        std::get<GridFlow>(effect.elements[1].body).eddy_size = 2;
        QVERIFY(prepared(shared(effect), {}, after).elements[1]->grid != after.elements[1]->grid);
    }

    // Files that made the libraries abort, hang or take all memory: each is refused, or read as far as it is
    // sound.
    void damaged_meshes_are_refused_and_the_program_goes_on() {
        write_box_mesh(path("sound.obj"));
        Problems problems;
        QVERIFY(read_mesh(path("sound.obj"), problems));
        const auto refused = [&](const char* name, const std::string& bytes) {
            write_text(path(name), bytes);
            Problems found;
            const auto mesh = read_mesh(path(name), found);
            return !mesh && !found.empty() && !found.front().found.empty();
        };
        QVERIFY(refused("cut.ply", "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nprop"));
        std::string binary =
            "ply\nformat binary_little_endian 1.0\nelement vertex 3\nproperty float x\nproperty float "
            "y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n";
        binary += std::string(3 * 12 + 1 + 12 - 4, '\0');
        QVERIFY(refused("short.ply", binary));
        QVERIFY(refused("no-faces.off", "OFF\n8 6 12\n0 0 0\n"));
        std::string nested = R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[)";
        for (int i = 0; i < 30000; ++i) {
            nested += R"({"children":[)" + std::to_string(i + 1) + "]},";
        }
        QVERIFY(refused("deep.gltf", nested + "{}]}"));
        QVERIFY(refused("odd.raw", std::string(600, 'x')));
        QVERIFY(refused("empty.stl", ""));
        // What is cut anywhere does not end the program either.
        QFile sound(QString::fromStdString(path("sound.obj")));
        QVERIFY(sound.open(QIODevice::ReadOnly));
        const std::string whole = sound.readAll().toStdString();
        for (size_t length = 1; length < whole.size(); length += whole.size() / 12) {
            write_text(path("part.obj"), whole.substr(0, length));
            Problems found;
            const auto mesh = read_mesh(path("part.obj"), found);
            QVERIFY(mesh || !found.empty());
        }
        QVERIFY(read_mesh(path("sound.obj"), problems));
    }

    void what_is_no_plain_file_is_refused() {
        const QString pipe = QString::fromStdString(path("pipe.vdb"));
        QCOMPARE(QProcess::execute("mkfifo", {pipe}), 0);
        Problems problems;
        QVERIFY(!read_vectors(pipe.toStdString(), 32, problems));
        QVERIFY(problems.size() == 1 && problems[0].found.find("pipe") != std::string::npos);
        // A mesh that names a pipe is not waited for without end.
        const QString material = QString::fromStdString(path("pipe.mtl"));
        QCOMPARE(QProcess::execute("mkfifo", {material}), 0);
        write_box_mesh(path("piped.obj"));
        QFile mesh(QString::fromStdString(path("piped.obj")));
        QVERIFY(mesh.open(QIODevice::ReadOnly));
        write_text(path("piped.obj"), "mtllib pipe.mtl\n" + mesh.readAll().toStdString());
        problems.clear();
        const auto read = read_mesh(path("piped.obj"), problems);
        QVERIFY(read || (!problems.empty() && !problems[0].found.empty()));
    }

    void reading_is_cancelled_at_once() {
        write_ball_mesh(path("large.obj"), 400);
        Problems problems;
        int asked = 0;
        Progress progress;
        progress.report = [&](const std::string&, float) { return ++asked < 2; };
        QVERIFY(!read_mesh(path("large.obj"), problems, progress));
        QVERIFY(problems.empty()); // cancelled is no fault of the file
    }

    void turned_and_mirrored_grids_flow_as_they_stand() {
        // A flow along the grid's own x, which is turned to the world's z, and a mirrored one.
        const auto velocity = [&](const std::array<Vec3, 3>& axes) {
            write_turned_grid(path("turned.vdb"), 17, 0.25f, axes, {1, 0, 0});
            GridFlow flow;
            flow.grid = FlowGrid::file;
            flow.file = "turned.vdb";
            flow.grip = 20;
            const Effect effect = effect_of(single_particle({0.1f, 0.1f, 0.1f}), {flow});
            AssetLibrary library;
            const LoadResult loaded = library.load(effect, std::filesystem::path(path("x")).parent_path());
            Simulation simulation;
            simulation.set_effect(shared(effect), loaded.assets);
            for (int i = 0; i < 30; ++i) {
                simulation.step();
            }
            return particles(simulation).at(0).velocity;
        };
        QVERIFY(length(velocity({Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}}) - Vec3{1, 0, 0}) < 0.05f);
        QVERIFY(length(velocity({Vec3{0, 0, -1}, Vec3{0, 1, 0}, Vec3{1, 0, 0}}) - Vec3{1, 0, 0}) < 0.05f);
        QVERIFY(length(velocity({Vec3{-1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}}) - Vec3{1, 0, 0}) < 0.05f);
    }

    void light_beyond_half_floats_stays_light() {
        Image image{2, 1, {{5e5f, 10, 0.5f, 1}, {1, 1, 1, 1}}};
        QVERIFY(!write_exr(image, path("sun.exr")));
        Problems notes;
        const auto read = read_image(path("sun.exr"), notes);
        QVERIFY(read && read->pixels[0].red > 500 && std::abs(read->pixels[0].green - 10) < 0.1f);
        QVERIFY(!notes.empty() && notes[0].found.find("light above") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(TestAssets)
#include "tst_assets.moc"
