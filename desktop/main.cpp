#include "core/base/file.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/files.h"
#include "desktop/interface_size.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QPixmap>
#include <QStandardPaths>
#include <QTimer>

#include <iostream>

namespace {

// Saves what the window shows after `seconds`, then ends the program.
void save_window_after(ember::MainWindow& window, const QString& path, double seconds) {
    QTimer::singleShot(int(seconds * 1000), &window, [&window, path] {
        const bool saved = window.grab().save(path, "PNG");
        if (!saved) {
            std::cerr << path.toStdString()
                      << ": cannot be written; give the name of a .png file in a folder you may write to\n";
        }
        QCoreApplication::exit(saved ? 0 : 2);
    });
}

} // namespace

int main(int argc, char** argv) {
    QCoreApplication::setApplicationName(QStringLiteral("crisp-ember"));
    QCoreApplication::setOrganizationName(QStringLiteral("crisp-ember"));
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("A workbench for real-time effects"));
    parser.addHelpOption();
    parser.addPositionalArgument(QStringLiteral("EFFECT"), QStringLiteral("Effect file to open"));
    const QCommandLineOption demo(QStringLiteral("demo"), QStringLiteral("Open a copy of the demo effect"));
    const QCommandLineOption demo_effect(QStringLiteral("demo-effect"),
                                         QStringLiteral("Which of the demo effects --demo opens"),
                                         QStringLiteral("NAME"), QStringLiteral("sluice-spray"));
    const QCommandLineOption picture(QStringLiteral("picture"),
                                     QStringLiteral("Save what the window shows, then quit"),
                                     QStringLiteral("FILE.png"));
    const QCommandLineOption after(QStringLiteral("after"),
                                   QStringLiteral("Seconds to wait before --picture"),
                                   QStringLiteral("SECONDS"), QStringLiteral("6"));
    const QCommandLineOption select(QStringLiteral("select"),
                                    QStringLiteral("Select an element, a look, stage or budget"),
                                    QStringLiteral("ID"));
    const QCommandLineOption size(QStringLiteral("window"), QStringLiteral("Size of the window in pixels"),
                                  QStringLiteral("WIDTHxHEIGHT"), QStringLiteral("1280x800"));
    const QCommandLineOption first(QStringLiteral("until-first-picture"),
                                   QStringLiteral("Quit when the first picture is shown"));
    const QCommandLineOption open(QStringLiteral("edit"),
                                  QStringLiteral("With --select: open a curve or ramp for editing"),
                                  QStringLiteral("PARAMETER"));
    const QCommandLineOption lens(QStringLiteral("lens"),
                                  QStringLiteral("What is seen: picture, arrows, streamlines, slice, smoke, "
                                                 "age, contacts, heat or cut"),
                                  QStringLiteral("LENS"), QStringLiteral("picture"));
    const QStringList lenses = {
        QStringLiteral("picture"),  QStringLiteral("arrows"), QStringLiteral("streamlines"),
        QStringLiteral("slice"),    QStringLiteral("smoke"),  QStringLiteral("age"),
        QStringLiteral("contacts"), QStringLiteral("heat"),   QStringLiteral("cut")};
    parser.addOptions({lens, size, demo, demo_effect, picture, after, select, open, first});

    // Help and wrong options need no display.
    QStringList arguments;
    for (int i = 0; i < argc; ++i) {
        arguments << QString::fromLocal8Bit(argv[i]);
    }
    if (!parser.parse(arguments) || parser.isSet(QStringLiteral("help")) ||
        parser.isSet(QStringLiteral("help-all"))) {
        const QCoreApplication without_display(argc, argv);
        parser.process(without_display);
    }
    ember::remove_unfinished_on_signals();
    ember::apply_interface_size();
    QApplication application(argc, argv);
    QGuiApplication::setApplicationDisplayName(QStringLiteral("Crisp Ember"));
    ember::theme::apply(application);

    const auto refuse = [&parser](const QCommandLineOption& option, const QString& expected) {
        std::cerr << "--" << option.names().constFirst().toStdString() << ": found "
                  << parser.value(option).toStdString() << ", expected " << expected.toStdString() << "\n";
        return 1;
    };
    bool is_number = false;
    const double seconds = parser.value(after).toDouble(&is_number);
    if (!is_number || !(seconds >= 0 && seconds <= 3600)) {
        return refuse(after, QStringLiteral("seconds from 0 to 3600"));
    }
    const QStringList sides = parser.value(size).split('x');
    const QSize window_size(sides.value(0).toInt(), sides.value(1).toInt());
    if (sides.size() != 2 || !QRect(0, 0, 16385, 16385).contains(QRect({}, window_size)) ||
        window_size.isEmpty()) {
        return refuse(size, QStringLiteral("width x height in pixels, at most 16384x16384"));
    }
    if (!lenses.contains(parser.value(lens))) {
        return refuse(lens, "one of " + lenses.join(' '));
    }
    if (const QStringList demos = ember::Files::demoNames(); !demos.contains(parser.value(demo_effect))) {
        return refuse(demo_effect, "one of " + demos.join(' '));
    }

    ember::MainWindow window(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/unsaved");
    window.resize(window_size);
    window.show();
    if (parser.isSet(demo)) {
        window.files().openDemo(parser.value(demo_effect));
    }
    if (!parser.positionalArguments().isEmpty()) {
        window.files().openPath(parser.positionalArguments().constFirst());
    }
    if (parser.isSet(select)) {
        window.select(parser.value(select).toStdString());
    }
    window.lensBar()->choose(ember::ForceLens::Kind(lenses.indexOf(parser.value(lens))));
    for (const QString& key : parser.values(open)) {
        window.detail()->openEditor(key.toStdString());
    }
    if (parser.isSet(picture)) {
        save_window_after(window, parser.value(picture), seconds);
    } else if (parser.isSet(first)) {
        QObject::connect(&window, &ember::MainWindow::pictureShown, &application, [&window] {
            window.view()->repaint();
            std::cout << "first picture" << std::endl;
            QCoreApplication::exit(0);
        });
    } else {
        QTimer::singleShot(0, &window, [&window] {
            window.files().offerLostWork();
            window.workbench().bringLostRuns();
        });
    }
    return QApplication::exec();
}
