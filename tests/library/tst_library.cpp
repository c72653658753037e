// The library as a host uses it: the same bytes as the simulation, refusals in words, and the example built
// of it.
#include "../core/demos.h"
#include "../core/sample_effects.h"

#include "core/effect/edit.h"
#include "core/runtime/take.h"
#include "core/smoke/volume.h"

#include <crisp-ember/crisp_ember.hpp>

#include <QImage>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>

#include <cmath>
#include <cstring>
#include <thread>

using namespace ember;
using namespace ember::sample;

namespace {

struct Closed {
    void operator()(ember_effect* effect) const { ember_close(effect); }
    void operator()(ember_run* run) const { ember_stop(run); }
    void operator()(ember_snapshot* snapshot) const { ember_free_snapshot(snapshot); }
};
using OwnedEffect = std::unique_ptr<ember_effect, Closed>;
using OwnedRun = std::unique_ptr<ember_run, Closed>;

OwnedEffect opened(const QString& name) {
    char why[512] = "";
    OwnedEffect effect(ember_open((demo_folder + "/" + name).toUtf8().constData(), why, sizeof why));
    if (!effect) {
        qWarning("%s", why);
    }
    return effect;
}

// All that is alive, byte for byte.
QByteArray bytes_of(ember_effect* effect, ember_run* run) {
    QByteArray bytes;
    for (size_t i = 0; i < ember_element_count(effect); ++i) {
        ember_block block;
        for (size_t b = 0; ember_get_block(run, ember_element_id(effect, i), b, &block) != 0; ++b) {
            for (const float* array :
                 {block.x, block.y, block.z, block.vx, block.vy, block.vz, block.age, block.size}) {
                bytes.append(reinterpret_cast<const char*>(array), qsizetype(block.count * sizeof(float)));
            }
        }
    }
    return bytes;
}

} // namespace

class TestLibrary : public QObject {
    Q_OBJECT

  private slots:
    void it_runs_as_the_program_does_data() { add_demo_rows(); }
    void it_runs_as_the_program_does() {
        QFETCH(QString, name);
        const OwnedEffect effect = opened(name);
        QVERIFY(effect != nullptr);
        const OwnedRun run(ember_start(effect.get()));
        const Effect own = demo_effect(name);
        Simulation simulation;
        simulation.set_effect(shared(own), demo_assets(own));
        while (simulation.is_warming_up()) {
            simulation.step();
        }
        for (int step = 0; step < 40; ++step) {
            StepInputs inputs;
            if (step > 10) {
                inputs.pointer = PointerRay{{0, 1, 4}, {0, 0, -1}};
                const float from[] = {0, 1, 4}, way[] = {0, 0, -1};
                ember_point(run.get(), from, way);
            }
            simulation.step(inputs);
            ember_step(run.get());
        }
        QVERIFY(std::abs(ember_time(run.get()) - simulation.time_s()) < 1e-9);
        for (const Element& element : own.elements) {
            const auto expected = particles(simulation, element.id);
            QCOMPARE(ember_particle_count(run.get(), element.id.c_str()), expected.size());
            size_t at = 0;
            ember_block block;
            for (size_t b = 0; ember_get_block(run.get(), element.id.c_str(), b, &block) != 0; ++b) {
                for (size_t i = 0; i < block.count; ++i, ++at) {
                    QCOMPARE(block.x[i], expected[at].position.x);
                    QCOMPARE(block.vy[i], expected[at].velocity.y);
                    QCOMPARE(block.number[i], expected[at].number);
                }
            }
            if (std::holds_alternative<Breakable>(element.body)) {
                const ember_piece* pieces = nullptr;
                size_t count = 0;
                QCOMPARE(ember_get_pieces(run.get(), element.id.c_str(), &pieces, &count), 1);
                ember_mesh mesh;
                for (size_t i = 0; i < count; ++i) {
                    QCOMPARE(ember_get_piece_mesh(run.get(), element.id.c_str(), pieces[i].piece, &mesh), 1);
                    QVERIFY(mesh.corners > 3 && mesh.outer_triangles <= mesh.triangles);
                    QVERIFY(std::isfinite(mesh.places[3 * mesh.corners - 1]));
                }
            }
            if (const SmokeVolume* volume = simulation.find_smoke(element.id)) {
                ember_smoke smoke;
                QCOMPARE(ember_get_smoke(run.get(), element.id.c_str(), &smoke), 1);
                const SmokeSize& size = volume->size();
                QVERIFY(smoke.x == size.x && smoke.y == size.y && smoke.z == size.z &&
                        smoke.cell == size.cell);
                double sum = 0;
                for (int k = 0; k < smoke.z; ++k) {
                    for (int j = 0; j < smoke.y; ++j) {
                        for (int i = 0; i < smoke.x; ++i) {
                            const size_t cell =
                                (size_t(k) * size_t(smoke.rows_y) + size_t(j)) * size_t(smoke.rows_x) +
                                size_t(i);
                            float gas[2]; // density and heat
                            std::memcpy(gas, smoke.cells + cell * smoke.stride_bytes, sizeof gas);
                            QCOMPARE(gas[0], volume->cells()[size.packed(i, j, k)].density);
                            QCOMPARE(gas[1], volume->cells()[size.packed(i, j, k)].heat);
                            sum += double(gas[0]);
                        }
                    }
                }
                QVERIFY(sum > 0);
            }
        }
    }

    void numbers_are_set_by_name_and_refused_in_words() {
        const OwnedEffect effect = opened("sluice-spray.ember.json");
        const OwnedRun run(ember_start(effect.get()));
        const char* id = ember_element_id(effect.get(), 0);
        QCOMPARE(QString(ember_element_type(effect.get(), 0)), QString("emitter"));
        double rate = 0;
        QCOMPARE(ember_get_number(run.get(), id, "rate", &rate), 1);
        QVERIFY(rate > 100);
        QCOMPARE(ember_set_number(run.get(), id, "rate", 0), 1);
        for (int i = 0; i < 300; ++i) {
            ember_step(run.get());
        }
        QCOMPARE(ember_particle_count(run.get(), id), size_t(0));
        const double infinity = INFINITY;
        for (const auto& [who, what, number] :
             std::initializer_list<std::tuple<const char*, const char*, double>>{{"nobody", "rate", 1},
                                                                                 {id, "nothing", 1},
                                                                                 {id, "rate", -5},
                                                                                 {id, "rate", std::nan("")},
                                                                                 {id, "rate", infinity},
                                                                                 {id, "rate", 1e30},
                                                                                 {id, "shape", 1},
                                                                                 {nullptr, nullptr, 0}}) {
            QCOMPARE(ember_set_number(run.get(), who, what, number), 0);
            QVERIFY(std::strlen(ember_why(run.get())) > 10);
        }
        QCOMPARE(ember_set_number(run.get(), "budget", "frame_ms", 8), 1);
        QCOMPARE(ember_set_muted(run.get(), id, 1), 1);
        QCOMPARE(ember_set_muted(run.get(), "nobody", 1), 0);
        QCOMPARE(ember_press(run.get(), 12), 0);
        float size = 0, light[3], opacity = 0;
        QCOMPARE(ember_look_at(run.get(), id, 0.5f, &size, light, &opacity), 1);
        QVERIFY(size > 0 && opacity > 0);
        const float nowhere[] = {0, 0, 0}, wrong[] = {std::nanf(""), 0, 0};
        ember_point(run.get(), nowhere, nowhere);
        ember_point(run.get(), wrong, wrong);
        ember_step(run.get());
    }

    void what_follows_a_restore_is_the_same_to_the_byte() {
        const OwnedEffect effect = opened("drain-whirl.ember.json");
        const OwnedRun run(ember_start(effect.get())), other(ember_start(effect.get()));
        const auto steps = [](ember_run* which, int count) {
            for (int i = 0; i < count; ++i) {
                ember_step(which);
            }
        };
        steps(run.get(), 40);
        const std::unique_ptr<ember_snapshot, Closed> kept(ember_take_snapshot(run.get()));
        steps(run.get(), 30);
        ember_restore(other.get(), kept.get());
        steps(other.get(), 30);
        const QByteArray bytes = bytes_of(effect.get(), run.get());
        QVERIFY(!bytes.isEmpty());
        QVERIFY(bytes == bytes_of(effect.get(), other.get()));
        // Another seed is another run; the same again the same.
        QCOMPARE(ember_restart(run.get(), 5), 1);
        QCOMPARE(ember_restart(other.get(), 5), 1);
        steps(run.get(), 30);
        steps(other.get(), 30);
        QVERIFY(bytes != bytes_of(effect.get(), run.get()));
        QVERIFY(bytes_of(effect.get(), run.get()) == bytes_of(effect.get(), other.get()));
    }

    void runs_on_different_threads_do_not_meet() {
        const OwnedEffect effect = opened("wind-pump.ember.json");
        std::vector<QByteArray> bytes(3);
        std::vector<std::thread> threads;
        for (QByteArray& each : bytes) {
            threads.emplace_back([&effect, &each] {
                const OwnedRun run(ember_start(effect.get()));
                for (int i = 0; i < 60; ++i) {
                    ember_step(run.get());
                }
                each = bytes_of(effect.get(), run.get());
            });
        }
        for (std::thread& each : threads) {
            each.join();
        }
        QVERIFY(!bytes[0].isEmpty() && bytes[0] == bytes[1] && bytes[1] == bytes[2]);
    }

    void pieces_tell_what_happened_to_them() {
        const OwnedEffect effect = opened("salt-stack.ember.json");
        const OwnedRun run(ember_start(effect.get()));
        std::map<int, int> heard;
        for (int i = 0; i < 360; ++i) {
            ember_step(run.get());
            for (size_t e = 0; e < ember_element_count(effect.get()); ++e) {
                const ember_event* events = nullptr;
                size_t count = 0;
                if (ember_get_events(run.get(), ember_element_id(effect.get(), e), &events, &count) != 0) {
                    for (size_t k = 0; k < count; ++k) {
                        ++heard[events[k].kind];
                    }
                }
            }
        }
        QVERIFY(heard[EMBER_BROKE] > 0 && heard[EMBER_HIT] > 0);
    }

    void vectors_are_set_by_name_and_refused_in_words() {
        const OwnedEffect effect = opened("sluice-spray.ember.json");
        const OwnedRun run(ember_start(effect.get()));
        const char* id = ember_element_id(effect.get(), 0);
        float place[3];
        QCOMPARE(ember_get_vector(run.get(), id, "position", place), 1);
        const float moved[] = {place[0] + 3, place[1], place[2]};
        QCOMPARE(ember_set_vector(run.get(), id, "position", moved), 1);
        QCOMPARE(ember_get_vector(run.get(), id, "position", place), 1);
        QCOMPARE(place[0], moved[0]);
        ember_step(run.get());
        const float wrong[] = {0, INFINITY, 0};
        QCOMPARE(ember_set_vector(run.get(), id, "position", wrong), 0);
        QVERIFY(QString(ember_why(run.get())).contains("vector"));
        QCOMPARE(ember_set_vector(run.get(), id, "rate", moved), 0);
        QVERIFY(QString(ember_why(run.get())).contains("vector"));
        QCOMPARE(ember_get_vector(run.get(), "nobody", "position", place), 0);
        QCOMPARE(ember_get_vector(run.get(), "stage", "camera_target", place), 1);
    }

    // With the edit that was made while it played; then it goes on live.
    void a_take_is_repeated_and_continued() {
        const Effect effect = demo_effect("sluice-spray.ember.json");
        const Parameter& rate = *holder_of(effect.elements[0]).find("rate");
        const EffectPtr fuller = shared(with_value(effect, effect.elements[0].id, rate, 4000.0f));
        Take take;
        take.name = "Full";
        Simulation simulation;
        simulation.set_effect(shared(effect));
        const auto keep = [&](uint64_t at, const EffectPtr& edit) {
            take.effects[at] = edit;
            simulation.set_effect(edit);
        };
        keep(0, simulation.effect());
        take.inputs = InputLog(simulation.step_s());
        const uint64_t first = simulation.warm_up_steps();
        while (simulation.steps() < first + 90) {
            if (simulation.steps() == first + 30) {
                keep(first + 30, fuller);
            }
            StepInputs inputs;
            if (simulation.steps() > first + 20) {
                inputs.pointer = PointerRay{{0, 1, 4}, {0.1f, 0, -1}};
            }
            take.inputs.add(simulation.steps(), inputs);
            simulation.step(inputs);
        }
        QTemporaryDir folder;
        const std::string path = folder.filePath("run.takes").toStdString();
        QVERIFY(!save_takes({take}, path));
        char why[512] = "";
        QVERIFY(ember_open_take(path.c_str(), "Empty", why, sizeof why) == nullptr);
        QVERIFY(QString(why).contains("no such take"));
        QVERIFY(ember_open_take("/nowhere", nullptr, why, sizeof why) == nullptr);
        const OwnedEffect opened(ember_open_take(path.c_str(), "Full", why, sizeof why));
        QVERIFY2(opened != nullptr, why);
        const OwnedRun run(ember_start(opened.get())), early(ember_start(opened.get()));
        const char* id = ember_element_id(opened.get(), 0);
        while (ember_is_repeating(run.get()) != 0) {
            QCOMPARE(ember_set_number(run.get(), id, "rate", 1), 0);
            QVERIFY(QString(ember_why(run.get())).contains("go_live"));
            ember_step(run.get());
        }
        QVERIFY(std::abs(ember_time(run.get()) - simulation.time_s()) < 1e-9);
        const auto expected = particles(simulation, id);
        QCOMPARE(ember_particle_count(run.get(), id), expected.size());
        ember_block block;
        QCOMPARE(ember_get_block(run.get(), id, 0, &block), 1);
        QCOMPARE(block.x[0], expected[0].position.x);
        double now = 0;
        QCOMPARE(ember_get_number(run.get(), id, "rate", &now), 1);
        QCOMPARE(now, 4000.0);
        QCOMPARE(ember_set_number(run.get(), id, "rate", 1), 1);
        // Live from any moment.
        ember_step(early.get());
        ember_go_live(early.get());
        QCOMPARE(ember_set_number(early.get(), id, "rate", 1), 1);
        for (int i = 0; i < 60; ++i) {
            ember_step(early.get());
        }
        QVERIFY(ember_particle_count(early.get(), id) < expected.size());
    }

    void the_keeper_gives_way_to_a_slow_host() {
        Effect effect = effect_of(still(2000, 1));
        effect.budget.frame_ms = 10;
        effect.budget.keeper = true;
        const std::string text = effect_text(effect);
        char why[512] = "";
        const OwnedEffect read(ember_open_text(text.data(), text.size(), nullptr, why, sizeof why));
        QVERIFY2(read != nullptr, why);
        const OwnedRun run(ember_start(read.get()));
        double gives = 0;
        for (int i = 0; i < 600; ++i) {
            ember_step(run.get());
            gives = ember_frame_took(run.get(), 30, 1 / 60.0);
        }
        QVERIFY(gives > 0.5);
        QVERIFY(ember_particle_count(run.get(), "e") < 1900);
    }

    void what_is_no_effect_is_refused() {
        char why[64] = "";
        QVERIFY(ember_open("/nowhere/it.ember.json", why, sizeof why) == nullptr);
        QVERIFY(std::strlen(why) > 10);
        QVERIFY(ember_open_text("{", 1, nullptr, why, sizeof why) == nullptr);
        QVERIFY(ember_open_text(nullptr, 0, nullptr, nullptr, 0) == nullptr);
        QCOMPARE(ember_version() / 1000, EMBER_VERSION_MAJOR);
        QVERIFY_EXCEPTION_THROWN(ember_api::Effect("/nowhere"), std::runtime_error);
    }

    // By what a host's build would ask: pkg-config and find_package; and the installed program finds what it
    // needs.
    void what_is_installed_can_be_built_upon() {
        QTemporaryDir folder;
        const QString prefix = folder.filePath("usr"), libraries = prefix + "/" EMBER_LIBRARY_FOLDER;
        const auto shell = [&](const QString& line) {
            QProcess process;
            process.setWorkingDirectory(folder.path());
            process.setProcessChannelMode(QProcess::MergedChannels);
            process.start("sh", {"-c", line});
            const bool ended = process.waitForFinished(300000);
            const QString out = QString::fromUtf8(process.readAll());
            return ended && process.exitCode() == 0 ? out : "FAILED " + line + "\n" + out;
        };
        const QString installed = shell("cmake --install " EMBER_BUILD_FOLDER " --prefix " + prefix);
        QVERIFY2(!installed.startsWith("FAILED"), qPrintable(installed));
        const QString example = EMBER_SOURCE_DIR "/examples/step.c";
        const QString demo = prefix + "/share/crisp-ember/saltworks/wind-pump.ember.json";
        const QString with_pkg_config =
            shell("PKG_CONFIG_PATH=" + libraries + "/pkgconfig; export PKG_CONFIG_PATH; cc " + example +
                  " $(pkg-config --cflags --libs crisp-ember) -Wl,-rpath," + libraries +
                  " -o step && ./step " + demo + " 0.2");
        QVERIFY2(with_pkg_config.contains("particles, up to"), qPrintable(with_pkg_config));
        QFile project(folder.filePath("CMakeLists.txt"));
        QVERIFY(project.open(QIODevice::WriteOnly));
        project.write("cmake_minimum_required(VERSION 3.25)\nproject(host C)\n"
                      "find_package(CrispEmber 1.0 REQUIRED)\nadd_executable(host " +
                      example.toUtf8() + ")\ntarget_link_libraries(host CrispEmber::crisp_ember_library)\n");
        project.close();
        const QString with_cmake = shell("cmake -S . -B b -DCMAKE_PREFIX_PATH=" + prefix +
                                         " && cmake --build b && b/host " + demo + " 0.2");
        QVERIFY2(with_cmake.contains("particles, up to"), qPrintable(with_cmake));
        const QString program = shell("bin=" + prefix + "/bin; $bin/crisp-ember-cli run " + demo +
                                      " --seconds 0.2 && $bin/crisp-ember --demo --demo-effect wind-pump "
                                      "--until-first-picture");
        QVERIFY2(program.contains("first picture"), qPrintable(program));
        const QString known = shell("gzip -dc " + prefix + "/share/man/man1/crisp-ember-cli.1.gz");
        QProcess help;
        help.start(EMBER_CLI, {"--help"});
        QVERIFY(help.waitForFinished(60000));
        // Each command has its line in the man page, and completes.
        static const QRegularExpression line("^  ([a-z][a-z-]*) {2,}", QRegularExpression::MultilineOption);
        const QString said = QString::fromUtf8(help.readAllStandardOutput()).section("Subcommands:", 1);
        QStringList commands;
        for (auto match = line.globalMatch(said); match.hasNext();) {
            commands << match.next().captured(1);
        }
        QVERIFY(commands.size() > 5);
        for (const QString& command : commands) {
            QVERIFY2(known.contains(QString(command).replace("-", "\\-")) || known.contains(command),
                     qPrintable(command));
        }
        const QString completed = shell(
            "bash -c '. " + prefix + "/share/bash-completion/completions/crisp-ember-cli; PATH=" + prefix +
            "/bin:$PATH; COMP_WORDS=(crisp-ember-cli b); COMP_CWORD=1; _crisp_ember; echo ${COMPREPLY[*]}; "
            "COMP_WORDS=(crisp-ember-cli bake --see); COMP_CWORD=2; _crisp_ember; echo ${COMPREPLY[*]}'");
        QCOMPARE(completed.split('\n', Qt::SkipEmptyParts), (QStringList{"bake", "--seed"}));
    }

    void the_example_prints_what_is_alive() {
        QProcess process;
        process.start(EMBER_EXAMPLE, {demo_folder + "/sluice-spray.ember.json", "1"});
        QVERIFY(process.waitForFinished(120000));
        QCOMPARE(process.exitCode(), 0);
        const QString out = QString::fromUtf8(process.readAllStandardOutput());
        QVERIFY2(out.contains("spray-jet") || out.contains("particles, up to"), qPrintable(out));
    }

    // In a window of its own, on a screen that nobody sees.
    void the_example_draws_and_stirs() {
        QTemporaryDir folder;
        const QString picture = folder.filePath("stirred.ppm");
        QProcess process;
        process.start("xvfb-run",
                      {"-a", EMBER_DRAWING_EXAMPLE, demo_folder + "/sluice-spray.ember.json", "90", picture});
        QVERIFY(process.waitForFinished(300000));
        QVERIFY2(process.exitCode() == 0, process.readAllStandardError().constData());
        const QImage image(picture);
        QCOMPARE(image.size(), QSize(960, 540));
        int lit = 0;
        for (int y = 0; y < image.height(); ++y) {
            for (int x = 0; x < image.width(); ++x) {
                lit += qGray(image.pixel(x, y)) > 40;
            }
        }
        QVERIFY2(lit > 500 && lit < 400000, qPrintable(QString::number(lit)));
    }
};

QTEST_GUILESS_MAIN(TestLibrary)
#include "tst_library.moc"
