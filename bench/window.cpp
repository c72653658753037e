#include "bench/figures.h"

#include "core/effect/edit.h"
#include "desktop/board/board_panel.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/files.h"
#include "desktop/main_window.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/theme.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QProcess>
#include <QTemporaryDir>
#include <QTimer>

#include <algorithm>
#include <ctime>
#include <numeric>
#include <vector>

namespace ember::bench {

namespace {

double at_share(std::vector<double> list, double share) {
    std::sort(list.begin(), list.end());
    return list[size_t(share * double(list.size() - 1))];
}

void wait_ms(int ms) {
    QEventLoop loop;
    QTimer::singleShot(ms, &loop, &QEventLoop::quit);
    loop.exec();
}

// P10: from an edit, as a slider's move makes it, to the picture on the screen that a step with that edit has
// led to, while the demo runs within its budget.
void measure_latency() {
    QTemporaryDir folder;
    MainWindow window(folder.path());
    window.show();
    window.files().openDemo(QStringLiteral("sluice-spray"));
    wait_ms(5000);
    values()["latency particles"] =
        double(window.workbench().pictureMaker().shot().readings.meters.particles);

    const Parameter& strength =
        *holder_of(*find_element(*window.workbench().document().effect(), "gravity")).find("strength");
    std::vector<double> frames;
    for (int i = 0; i < 150; ++i) {
        QElapsedTimer since;
        since.start();
        window.workbench().document().apply(
            with_value(*window.workbench().document().effect(), "gravity", strength, 9 + 0.01f * float(i)),
            "drag", "drag");
        const EffectPtr edited = window.workbench().document().effect();
        QEventLoop loop;
        QObject::connect(&window, &MainWindow::pictureShown, &loop, [&] {
            if (window.workbench().pictureMaker().shot().readings.effect == edited) {
                window.view()->repaint();
                loop.quit();
            }
        });
        loop.exec();
        frames.push_back(double(since.nsecsElapsed()) / 1e6 / (1000.0 / 60));
        wait_ms(7 + i % 13); // so that edits fall anywhere between two steps
    }
    values()["latency median"] = at_share(frames, 0.5);
    values()["latency 95"] = at_share(frames, 0.95);
    window.workbench().document().reset(starter_effect(), {});
}

double processor_s() {
    timespec now{};
    clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
    return double(now.tv_sec) + double(now.tv_nsec) / 1e9;
}

// From asking for an effect to its first picture, median of some.
double opening_s(MainWindow& window, const Effect& effect) {
    std::vector<double> seconds;
    for (int i = 0; i < 7; ++i) {
        QElapsedTimer since;
        since.start();
        window.workbench().document().reset(effect, {});
        const EffectPtr opened = window.workbench().document().effect();
        QEventLoop loop;
        QObject::connect(&window, &MainWindow::pictureShown, &loop, [&] {
            if (window.workbench().pictureMaker().shot().readings.effect == opened) {
                window.grab();
                loop.quit();
            }
        });
        loop.exec();
        seconds.push_back(double(since.nsecsElapsed()) / 1e9);
        wait_ms(50);
    }
    return at_share(seconds, 0.5);
}

void measure_opening() {
    QTemporaryDir folder;
    MainWindow window(folder.path());
    window.show();
    Effect empty = starter_effect();
    empty.elements.clear();
    Effect crowded = starter_effect();
    std::string id;
    for (size_t i = 0; crowded.elements.size() < 60; ++i) {
        crowded = with_new_element(crowded, element_types()[i % element_types().size()], id);
    }
    values()["open empty"] = opening_s(window, empty);
    values()["open 60"] = opening_s(window, crowded);
}

// P12: processor time of the whole program for each picture of the running demo, with the board, the strip,
// the gauges and the detail panel drawn against not drawn, in turns that are so short that the effect is the
// same in both; the mean of the middle half, since what runs beside disturbs some.
void measure_panels() {
    QTemporaryDir folder;
    MainWindow window(folder.path());
    window.show();
    window.files().openDemo(QStringLiteral("sluice-spray"));
    wait_ms(5000);
    int pictures = 0;
    QObject::connect(&window, &MainWindow::pictureShown, [&pictures] { ++pictures; });
    const auto ms_a_picture = [&](bool drawn) {
        for (QWidget* panel :
             {static_cast<QWidget*>(window.boardPanel()), static_cast<QWidget*>(window.strip()),
              static_cast<QWidget*>(window.topBar()), static_cast<QWidget*>(window.detail())}) {
            panel->setUpdatesEnabled(drawn);
        }
        wait_ms(50);
        pictures = 0;
        const double before = processor_s();
        wait_ms(350);
        return (processor_s() - before) * 1000 / std::max(pictures, 1);
    };
    std::vector<double> shares, frames;
    for (int i = 0; i < 120; ++i) {
        const bool is_first = i % 2 == 0;
        const double one = ms_a_picture(is_first), other = ms_a_picture(!is_first);
        shares.push_back((is_first ? one / other : other / one) - 1);
        frames.push_back(is_first ? other : one);
    }
    std::sort(shares.begin(), shares.end());
    const auto quarter = std::ptrdiff_t(shares.size() / 4);
    values()["panels share"] = std::accumulate(shares.begin() + quarter, shares.end() - quarter, 0.0) /
                               double(shares.size() - 2 * size_t(quarter));
    values()["panels frame ms"] = at_share(frames, 0.5);
    window.workbench().document().reset(starter_effect(), {});
}

// P13: each demo as the program opens it, in a window of 1280x800: frames from its third second on, against
// its own limit.
void measure_frames_in_window(const std::vector<std::string>& demos) {
    QTemporaryDir folder;
    MainWindow window(folder.path());
    window.resize(1280, 800);
    window.show();
    for (const std::string& name : demos) {
        window.files().openDemo(QString::fromStdString(name));
        std::vector<double> shares;
        QEventLoop loop;
        const auto listening = QObject::connect(&window, &MainWindow::pictureShown, &loop, [&] {
            const Readings& readings = window.workbench().pictureMaker().shot().readings;
            if (readings.effect != window.workbench().document().effect() || readings.time_s < 2) {
                return;
            }
            shares.push_back(readings.frame_ms() / double(readings.effect->budget.frame_ms));
            if (readings.time_s > 10) {
                loop.quit();
            }
        });
        loop.exec();
        QObject::disconnect(listening);
        const auto over = std::count_if(shares.begin(), shares.end(), [](double share) { return share > 1; });
        const std::string of = " of " + name;
        values()["window median" + of] = at_share(shares, 0.5);
        values()["window 95" + of] = at_share(shares, 0.95);
        values()["window over" + of] = double(over) / double(shares.size());
    }
    window.workbench().document().reset(starter_effect(), {});
}

// P11: from starting the process to its word that the first picture of the demo is on the screen.
void measure_start() {
    std::vector<double> seconds;
    for (int i = 0; i < 7; ++i) {
        QProcess program;
        QElapsedTimer since;
        since.start();
        program.start(EMBER_PROGRAM, {"--demo", "--until-first-picture"});
        while (program.waitForReadyRead(20000) &&
               !program.readAllStandardOutput().contains("first picture")) {
        }
        seconds.push_back(double(since.elapsed()) / 1000);
        program.waitForFinished(10000);
    }
    values()["start"] = at_share(seconds, 0.5);
}

} // namespace

void measure_window(int& argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName("crisp-ember-bench");
    theme::apply(application);
    measure_latency();
    measure_panels();
    measure_frames_in_window({std::begin(demo_names), std::end(demo_names)});
    measure_opening();
    measure_start();
}

void measure_demos(int& argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName("crisp-ember-bench");
    theme::apply(application);
    if (argc > 2) {
        measure_frames_in_window({argv + 2, argv + argc});
    } else {
        measure_frames_in_window({std::begin(demo_names), std::end(demo_names)});
    }
}

} // namespace ember::bench
