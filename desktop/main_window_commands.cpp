// The window's commands: its menus, its shortcuts, and what they do.
#include "desktop/main_window.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "desktop/board/board_panel.h"
#include "desktop/compare/compare_window.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/dialogs/bake_sheet.h"
#include "desktop/dialogs/fit_sheet.h"
#include "desktop/dialogs/picture_sheet.h"
#include "desktop/dialogs/trial_sheet.h"
#include "desktop/dialogs/worth_sheet.h"
#include "desktop/drops.h"
#include "desktop/files.h"
#include "desktop/finder.h"
#include "desktop/gallery/offers.h"
#include "desktop/interface_size.h"
#include "desktop/shortcut_list.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/takes/takes_dialog.h"
#include "desktop/theme.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QAction>
#include <QApplication>
#include <QBuffer>
#include <QDir>
#include <QFileDialog>
#include <QImage>
#include <QInputDialog>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QToolButton>

#include <iterator>
#include <set>

namespace ember {

QAction* MainWindow::command(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                             const std::function<void()>& run) {
    QAction* action = menu->addAction(text);
    action->setShortcut(keys);
    action->setToolTip(keys.isEmpty() ? tip
                                      : tr("%1 (%2)").arg(tip, keys.toString(QKeySequence::NativeText)));
    connect(action, &QAction::triggered, this, run);
    addAction(action);
    commands_.push_back(action);
    return action;
}

void MainWindow::makeCommands() {
    menu_->setToolTipsVisible(true);
    command(menu_, tr("New..."), QKeySequence::New, tr("Choose an effect to start from"),
            [this] { chooseToStart(); });
    command(menu_, tr("Open..."), QKeySequence::Open, tr("Open an effect file"), [this] { files_->open(); });
    QMenu* recent = menu_->addMenu(tr("Open recent"));
    connect(recent, &QMenu::aboutToShow, this, [this, recent] { files_->fillRecent(recent); });
    QMenu* demos = menu_->addMenu(tr("Open a demo"));
    for (const QString& name : Files::demoNames()) {
        command(demos, name, {}, tr("A copy of this demo effect"), [this, name] { files_->openDemo(name); });
    }
    command(menu_, tr("Save"), QKeySequence::Save, tr("Save to the effect's file"),
            [this] { files_->save(); });
    command(menu_, tr("Save as..."), QKeySequence(tr("Ctrl+Shift+S")), tr("Save to another file"),
            [this] { files_->saveAs(); });
    command(menu_, tr("Save the picture..."), QKeySequence(tr("Ctrl+P")),
            tr("The picture as it is now, of any size, as PNG or OpenEXR, with or without the stage"),
            [this] { savePicture(); });
    command(menu_, tr("Bake..."), QKeySequence(tr("Ctrl+K")),
            tr("The frames of a span for other programs: particles, pieces, smoke, pictures, video, a sheet"),
            [this] { bakeFrames(); });
    command(menu_, tr("Keep as a start..."), {}, tr("To begin other effects from, in the gallery of New"),
            [this] { keepPreset(Presets::Kind::start); });
    command(menu_, tr("Rename the effect..."), {}, tr("The name in the top bar"), [this] { renameEffect(); });
    command(menu_, tr("Read files again"), {}, tr("Meshes, grids and images that have changed on disk"),
            [this] { workbench_.readAgain(); });
    menu_->addSeparator();
    undo_ = command(menu_, tr("Undo"), QKeySequence::Undo, tr("Take the last edit back"),
                    [this] { workbench_.undo(); });
    redo_ = command(menu_, tr("Redo"), QKeySequence(tr("Ctrl+Shift+Z")), tr("Do again what was taken back"),
                    [this] { workbench_.redo(); });
    command(menu_, tr("Edits..."), QKeySequence(tr("Ctrl+E")),
            tr("All edits since the effect was opened, with pictures, to go back and forth"),
            [this] { showHistory(); });
    // Also while the texture bench has the keyboard.
    undo_->setShortcutContext(Qt::ApplicationShortcut);
    redo_->setShortcutContext(Qt::ApplicationShortcut);
    element_menu_ = menu_->addMenu(tr("Element"));
    makeElementCommands(element_menu_);
    menu_->addSeparator();

    QMenu* run = menu_->addMenu(tr("Run"));
    play_ = command(run, tr("Play or pause"), QKeySequence(tr("P")), tr("Play or pause"), [this] {
        workbench_.endRacing() ? void() : workbench_.setPlaying(!workbench_.isPlaying());
    });
    step_ = command(run, tr("One frame"), QKeySequence(tr("N")), tr("One step of 1/60 s, then pause"),
                    [this] { workbench_.stepOnce(); });
    command(run, tr("One frame back"), QKeySequence(tr("Shift+N")),
            tr("Back by one step of 1/60 s, then pause; as far as has been played"),
            [this] { workbench_.stepBack(); });
    rewind_ = command(run, tr("Back to the start"), QKeySequence(tr("B")), tr("Back to 0 s"),
                      [this] { workbench_.rewind(); });
    command(run, tr("Go to a moment"), QKeySequence(tr("G")), tr("Type the time that is to be shown"),
            [this] {
                top_->timeField()->setFocus(Qt::ShortcutFocusReason);
                top_->timeField()->selectAll();
            });
    const auto loops = [&](const QString& text, const char* keys, const QString& tip,
                           Workbench::Looping how) {
        QAction* action = command(run, text, QKeySequence(QLatin1String(keys)), tip, [] {});
        action->setCheckable(true);
        connect(action, &QAction::triggered, this,
                [this, how](bool on) { workbench_.setLooping(on ? how : Workbench::Looping::off); });
        connect(&workbench_, &Workbench::loopingChanged, action,
                [action, how](Workbench::Looping now) { action->setChecked(now == how); });
    };
    loops(tr("Loop the span"), "J",
          tr("What is marked below the costs comes again as it was, with what you change"),
          Workbench::Looping::as_it_was);
    loops(tr("Loop the span anew"), "Shift+J",
          tr("The same, each time played from the start of the effect with all that has been changed"),
          Workbench::Looping::anew);
    speeds_ = run->addMenu(tr("Speed"));
    for (const double speed : {0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0}) {
        QAction* action = command(speeds_, tr("Speed x %1").arg(speed), {},
                                  tr("Time goes so fast; steps are as long as ever"),
                                  [this, speed] { workbench_.setSpeed(speed); });
        action->setCheckable(true);
        action->setChecked(speed == 1.0);
        connect(&workbench_, &Workbench::speedChanged, action,
                [action, speed](double now) { action->setChecked(now == speed); });
    }
    command(run, tr("Keep this run"), QKeySequence(tr("Ctrl+T")),
            tr("As a take: what was played since the start, with what was turned and pointed at meanwhile"),
            [this] { keepTake(); });
    command(run, tr("Takes..."), QKeySequence(tr("Ctrl+Shift+T")),
            tr("Runs that were kept, to be played again"), [this] { showTakes(); });
    command(run, tr("Go on live"), QKeySequence(tr("Ctrl+L")),
            tr("While a take is played again: from here on by your own hand"),
            [this] { workbench_.goOnLive(); });
    command(run, tr("Try side by side..."), QKeySequence(tr("Ctrl+R")),
            tr("Other seeds, or a number over a range, as small pictures at the moment that is shown"),
            [this] { tryHere(); });
    command(run, tr("A and B..."), QKeySequence(tr("Ctrl+B")),
            tr("Two versions in step: pictures divided by a line, costs and all that differs"),
            [this] { compare(); });
    QMenu* budget = menu_->addMenu(tr("Budget"));
    command(budget, tr("What is each thing worth?..."), QKeySequence(tr("Ctrl+M")),
            tr("Each thing is switched off in turn: what that saves, and whether one sees it"),
            [this] { measureWorth(); });
    command(budget, tr("Fit to the budget..."), QKeySequence(tr("Ctrl+Shift+F")),
            tr("Finds values that keep within the limits with the least change of the picture"),
            [this] { fitToBudget(); });
    machine_menu_ = budget->addMenu(tr("The machine it is for"));
    machine_menu_->setToolTipsVisible(true);
    fillMachines();
    command(budget, tr("Limits..."), QKeySequence(tr("Ctrl+Shift+B")),
            tr("The limits, how the effect gives way near them, and what the frame goes to"),
            [this] { select(std::string(budget_id)); });
    without_cleanup_ =
        command(run, tr("Without cleanup"), QKeySequence(tr("U")),
                tr("As if no zone and no rule took pieces away: what they are good for. Pieces "
                   "pile up, and the frame time climbs. No part of the effect"),
                [] {});
    without_cleanup_->setCheckable(true);
    connect(without_cleanup_, &QAction::toggled, this,
            [this](bool on) { workbench_.player().set_cleanup(!on); });
    QMenu* view = menu_->addMenu(tr("View"));
    command(view, tr("The effect's own view"), QKeySequence(tr("H")), tr("Camera as the effect has it"),
            [this] {
                view_->setCamera(camera_of(workbench_.effect()->stage));
                view_->setFlying(has_flying_camera(*workbench_.effect()));
            });
    command(view, tr("Keep this view"), QKeySequence(tr("Shift+H")),
            tr("Make the live view's camera the effect's own"),
            [this] { workbench_.keepView(view_->camera()); });
    const auto focus = [&](const QString& text, const char* keys, QWidget* (MainWindow::*panel)() const) {
        command(view, text, QKeySequence(QLatin1String(keys)), tr("Move the keyboard there"),
                [this, panel] { (this->*panel)()->setFocus(); });
    };
    QAction* handles = command(view, tr("Handles"), QKeySequence(tr("K")),
                               tr("Show or hide the handles of what is selected"), [] {});
    handles->setCheckable(true);
    handles->setChecked(true);
    connect(handles, &QAction::toggled, this, [this](bool on) { view_->setHandlesShown(on); });
    command(view, tr("Next lens"), QKeySequence(tr("L")),
            tr("Picture, arrows, streamlines, slice, smoke, age, contacts, cost heat, cut"),
            [this] { lens_bar_->next(); });
    command(view, tr("Focus..."), QKeySequence(tr("O")),
            tr("Then press in the picture on what shall be sharp"), [this] { view_->pickFocus(); });
    command(view, tr("Texture bench..."), QKeySequence(tr("T")),
            tr("Patterns, noise and images for the layers of looks"), [this] { openTextureBench({}); });
    wide_board_ = command(view, tr("Wide board"), QKeySequence(tr("W")),
                          tr("The board as wide as its columns, and back"), [this] { widenBoard(); });
    wide_board_->setCheckable(true);
    const auto folds = [&](const QString& text, const char* keys, Panel panel) {
        command(view, text, QKeySequence(QLatin1String(keys)),
                tr("Fold it away, and back; so does its handle"), [this, panel] { foldPanel(panel); });
    };
    folds(tr("Fold the board"), "F6", Panel::board);
    folds(tr("Fold the details"), "F7", Panel::detail);
    folds(tr("Fold time and cost"), "F8", Panel::strip);
    command(view, tr("Earlier seconds"), QKeySequence(tr("Ctrl+PgUp")), tr("Scrolls time and cost back"),
            [this] { strip_->scroll(-0.25); });
    command(view, tr("Later seconds"), QKeySequence(tr("Ctrl+PgDown")),
            tr("Scrolls time and cost on, as far as anything stands there"),
            [this] { strip_->scroll(0.25); });
    command(view, tr("More seconds"), QKeySequence(tr("Ctrl+Shift+PgUp")),
            tr("Time and cost of twice as long"), [this] { strip_->zoom(2); });
    command(view, tr("Fewer seconds"), QKeySequence(tr("Ctrl+Shift+PgDown")),
            tr("Time and cost of half as long"), [this] { strip_->zoom(0.5); });
    command(view, tr("Go along with time"), QKeySequence(tr("Ctrl+End")),
            tr("Time and cost show again what plays"), [this] { strip_->follow(); });
    QAction* only = command(view, tr("Nothing but the picture"), QKeySequence(tr("F9")),
                            tr("Without panels and bars, and back"), [] {});
    only->setCheckable(true);
    connect(only, &QAction::toggled, this, &MainWindow::showOnlyPicture);
    QAction* full = command(view, tr("The whole screen"), QKeySequence(tr("F11")),
                            tr("The window as large as the screen, and back"), [] {});
    full->setCheckable(true);
    connect(full, &QAction::toggled, this, [this](bool on) { on ? showFullScreen() : showNormal(); });
    focus(tr("To the board"), "Alt+1", &MainWindow::boardWidget);
    focus(tr("To the live view"), "Alt+2", &MainWindow::viewWidget);
    focus(tr("To the details"), "Alt+3", &MainWindow::detailWidget);
    command(view, tr("Open the menu"), QKeySequence(tr("F10")), tr("What the effect's name opens"),
            [this] { top_->openMenu(); });
    QAction* contrast = command(view, tr("High contrast"), {}, tr("Light on black, with clear edges"),
                                [] { theme::set_high_contrast(!theme::has_high_contrast()); });
    contrast->setCheckable(true);
    contrast->setChecked(theme::has_high_contrast());
    QMenu* sizes = view->addMenu(tr("Size of the interface"));
    for (const int percent : {100, 125, 150, 175, 200}) {
        command(sizes, tr("Interface at %1 %").arg(percent), {},
                tr("At once, while the effect goes on; your desktop's own scaling comes on top"),
                [this, percent] { setInterfaceSize(percent); });
    }
    menu_->addSeparator();
    command(menu_, tr("Find..."), QKeySequence(tr("F3")),
            tr("A command, an element, a parameter or something to add, by a few letters"),
            [this] { find(); });
    command(menu_, tr("Keyboard shortcuts"), QKeySequence(tr("F1")), tr("All shortcuts"),
            [this] { showShortcuts(); });
    command(menu_, tr("Quit"), QKeySequence(tr("Ctrl+Q")), tr("Close the window"), [this] { close(); });
}

void MainWindow::chooseToStart() {
    Gallery gallery(tr("Start from"), offers_to_start(workbench_.presets()), this);
    letRemove(gallery);
    if (gallery.exec() != QDialog::Accepted) {
        return;
    }
    const Offer& chosen = gallery.chosen();
    if (chosen.key.isEmpty()) {
        files_->newEffect();
    } else {
        chosen.opens_itself ? void(files_->openPath(chosen.key)) : files_->openCopy(chosen.key);
    }
}

void MainWindow::savePicture() {
    const QSize shown = (view_->frameRect().size() * view_->devicePixelRatioF()).toSize();
    const Document& document = workbench_.document();
    const QString folder = document.folder().isEmpty() ? QDir::currentPath() : document.folder();
    PictureSheet sheet(workbench_.effect()->stage, shown,
                       folder + "/" + document.displayName().toLower().replace(' ', '-') + ".png", this);
    if (sheet.exec() == QDialog::Accepted) {
        const StillOptions options = sheet.options();
        say(tr("Drawing %1 x %2 pixels").arg(options.width).arg(options.height), 0);
        workbench_.pictureMaker().exportPicture(sheet.path(), options);
    }
}

// The middle of what is seen.
QImage MainWindow::smallPicture(QSize size) {
    const Picture& picture = workbench_.pictureMaker().shot().picture;
    if (picture.width == 0) {
        return {};
    }
    const QImage image(reinterpret_cast<const uchar*>(picture.pixels.data()), picture.width, picture.height,
                       picture.width * 4, QImage::Format_RGB32);
    return image.scaled(size, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation)
        .copy(QRect(QPoint(), size));
}

TrialSheet* MainWindow::tryHere() {
    auto* sheet = new TrialSheet(workbench_, view_->camera(),
                                 std::max(workbench_.pictureMaker().shot().readings.time_s, 0.0), this);
    sheet->show();
    return sheet;
}

Span MainWindow::spanToMeasure() const {
    constexpr double usual_s = 4;
    if (const auto& marked = strip_->span()) {
        return {marked->first, marked->second};
    }
    const auto length = double(workbench_.effect()->stage.length);
    return {0, length > 0 ? std::min(length, usual_s) : usual_s};
}

// As large as the live view draws.
QSize MainWindow::pixelsToMeasure() const {
    return view_->pictureSize();
}

void MainWindow::fillMachines() {
    Machines* machines = &workbench_.machines();
    const auto choice = [&](const QString& name, const QString& tip, const std::function<void()>& choose) {
        QAction* action = command(machine_menu_, name, {}, tip, choose);
        action->setCheckable(true);
        connect(machine_menu_, &QMenu::aboutToShow, action, [machines, action, name] {
            const auto& chosen = machines->chosen();
            action->setChecked(chosen ? QString::fromStdString(chosen->name) == name
                                      : name == tr("This machine"));
        });
    };
    choice(tr("This machine"), tr("Costs as they are measured here"), [machines] { machines->chooseThis(); });
    for (const MachineProfile& profile : Machines::known()) {
        choice(QString::fromStdString(profile.name),
               tr("Costs as they would be there: %1").arg(QString::fromStdString(profile.about)),
               [machines, profile] { machines->choose(profile); });
    }
    command(machine_menu_, tr("A profile..."), {},
            tr("Of another machine, as \"crisp-ember-cli measure\" writes it there"),
            [this] { openMachine(); });
    command(machine_menu_, tr("Measure this machine again"), {},
            tr("What is predicted is worked out from what this machine takes"),
            [machines] { machines->measureThis(); });
}

void MainWindow::openMachine() {
    const QString path = QFileDialog::getOpenFileName(this, tr("Profile of a machine"), QDir::homePath(),
                                                      tr("Profiles (*.profile.json)"));
    if (path.isEmpty()) {
        return;
    }
    Problems problems;
    if (const auto profile = read_profile(path.toStdString(), problems)) {
        workbench_.machines().choose(*profile);
    } else {
        say(tr("Not taken: %1").arg(QString::fromStdString(problems.front().text())), 12000);
    }
}

void MainWindow::measureWorth() {
    (new WorthSheet(workbench_, view_->camera(), pixelsToMeasure(), spanToMeasure(), this))->show();
}

void MainWindow::fitToBudget() {
    (new FitSheet(workbench_, view_->camera(), pixelsToMeasure(), spanToMeasure(), this))->show();
}

void MainWindow::bakeFrames() {
    (new BakeSheet(workbench_, view_->camera(), pixelsToMeasure(), spanToMeasure(), this))->show();
}

void MainWindow::compare() {
    (new CompareWindow(workbench_, view_->camera(), this))->show();
}

// A file that was dropped: opened, or brought beside the effect and made something of.
void MainWindow::take(const QString& path, const QPoint& place) {
    if (path.endsWith(".takes.json", Qt::CaseInsensitive)) {
        ReadTakes read = read_takes(path.toStdString());
        if (read.takes.empty()) {
            return say(read.problems.empty() ? tr("Not taken: %1 has no takes.").arg(path)
                                             : QString::fromStdString(read.problems.front().text()),
                       10000);
        }
        std::vector<Take> takes = workbench_.takes();
        const size_t count = read.takes.size();
        std::move(read.takes.begin(), read.takes.end(), std::back_inserter(takes));
        workbench_.setTakes(takes);
        say(tr("%1 takes are with the effect's own now (Ctrl+Shift+T).").arg(count), 8000);
        return;
    }
    if (path.endsWith(".json", Qt::CaseInsensitive)) {
        files_->openPath(path);
        return;
    }
    const std::vector<DropChoice> choices = drop_choices(path);
    if (choices.empty()) {
        return say(tr("Nothing can be made of %1: effects, takes, meshes, images, vector grids and keys can "
                      "be dropped.")
                       .arg(QFileInfo(path).fileName()),
                   10000);
    }
    QMenu menu(this);
    for (const DropChoice& choice : choices) {
        menu.addAction(choice.words, this, [this, &choice, path] {
            std::string file;
            if (workbench_.bringFile(path, file)) {
                std::string id;
                workbench_.edit(choice.taken(*workbench_.effect(), file, id), choice.words.toLower());
                select(id);
            }
        });
    }
    menu.exec(place);
}

// The number as it is on one side, and another that is asked for on the other; no edit is made.
void MainWindow::compareValues(const std::string& holder_id, const std::string& key) {
    const Effect& effect = *workbench_.effect();
    const Holder holder = *find_holder(effect, holder_id);
    const Parameter& parameter = *holder.find(key);
    const QString label = qtext(parameter.label);
    bool is_given = false;
    const QString text = QInputDialog::getText(
        this, tr("Compare %1").arg(label), tr("Compare it with:"), QLineEdit::Normal,
        QString::fromStdString(value_text(parameter, parameter.get(holder.object))), &is_given);
    if (!is_given) {
        return;
    }
    const auto value = parse_value(parameter, text.trimmed().toStdString());
    if (!value || refusal_of(parameter, *value)) {
        return say(tr("Not compared: expected %1.").arg(QString::fromStdString(expectation_of(parameter))),
                   8000);
    }
    auto* window = new CompareWindow(workbench_, view_->camera(), this);
    window->compareWith(with_value(effect, holder_id, parameter, *value),
                        QStringLiteral("%1 %2").arg(label, text.trimmed()));
    window->show();
}

void MainWindow::keepTake() {
    QByteArray png;
    QBuffer buffer(&png);
    smallPicture({160, 100}).save(&buffer, "PNG");
    workbench_.keepTake(png);
}

// What an edit led to, once it has been seen for a moment.
void MainWindow::keepHistoryPicture() {
    const EffectPtr& effect = workbench_.effect();
    if (workbench_.pictureMaker().shot().readings.effect != effect) {
        return;
    }
    history_pictures_.add(effect, smallPicture(HistoryPictures::size));
    history_pictures_.keepOnly(workbench_.document().history());
    if (history_list_) {
        history_list_->refresh();
    }
}

void MainWindow::showHistory() {
    if (!history_list_) {
        history_list_ = new HistoryList(workbench_.document(), history_pictures_, this);
        history_list_->move(mapToGlobal(QPoint(20, 60)));
    }
    history_list_->show();
    history_list_->list()->setFocus();
    history_list_->activateWindow();
}

void MainWindow::showTakes() {
    if (workbench_.takesPath().isEmpty()) {
        return say(tr("Takes lie beside the effect's file: save the effect first (Ctrl+S)"), 6000);
    }
    TakesDialog dialog(workbench_.takes(), workbench_.effect(), this);
    dialog.exec();
    if (dialog.isChanged()) {
        workbench_.setTakes(dialog.takes());
    }
    if (dialog.toPlay()) {
        workbench_.replay(dialog.takes()[*dialog.toPlay()]);
    }
}

void MainWindow::setInterfaceSize(int percent) {
    const int taken = set_interface_size(percent, least_size.width(), least_size.height());
    if (taken < percent) {
        say(tr("This screen is too small for %1 %: %2 % is the most at which the window fits")
                .arg(percent)
                .arg(taken),
            8000);
    }
    activateWindow();
}

void MainWindow::renameEffect() {
    bool ok = false;
    const QString name = QInputDialog::getText(this, tr("Rename the effect"), tr("Name:"), QLineEdit::Normal,
                                               workbench_.document().displayName(), &ok);
    if (ok) {
        workbench_.rename(name);
    }
}

// Commands, what can be added, and what there is to go to.
void MainWindow::find() {
    std::vector<Finder::Entry> entries;
    for (QAction* action : commands_) {
        if (action->isEnabled() && !action->text().isEmpty()) {
            entries.push_back({action->text(), action->shortcut().toString(QKeySequence::NativeText),
                               [action] { action->trigger(); }});
        }
    }
    for (const ElementType& type : element_types()) {
        entries.push_back({tr("Add %1").arg(qtext(type.label).toLower()), qtext(type.help),
                           [this, key = qtext(type.key)] { add(key); }});
    }
    for (const std::string& id : std::set<std::string>{workbench_.selection(), std::string(stage_id)}) {
        const Holder holder = *find_holder(*workbench_.effect(), id);
        for (const Parameter& parameter : holder.parameters) {
            entries.push_back(
                {tr("%1 of %2").arg(qtext(parameter.label), QString::fromStdString(holder.name)),
                 qtext(parameter.help), [this, id, key = std::string(parameter.key)] {
                     select(id);
                     detail_->goTo(id, key);
                 }});
        }
    }
    for (const Element& element : workbench_.effect()->elements) {
        entries.push_back({tr("Go to %1").arg(QString::fromStdString(element.name)),
                           qtext(type_of(element.body).label), [this, id = element.id] { select(id); }});
    }
    Finder(std::move(entries), this).exec();
}

void MainWindow::showShortcuts() {
    std::vector<ShortcutList::Line> lines;
    for (const QAction* action : commands_) {
        if (!action->shortcut().isEmpty()) {
            lines.push_back({action->shortcut().toString(QKeySequence::NativeText), action->text()});
        }
    }
    const auto add = [&](const QString& keys, const QString& what) { lines.push_back({keys, what}); };
    add(tr("Arrows"), tr("On the board: move about"));
    add(tr("+  -"), tr("On the board: turn a dial (Alt: finely). In the live view: zoom"));
    add(tr("Space"), tr("On the board: link. On a slider: the other end of a range"));
    add(tr("Enter"), tr("On the board: type a weight"));
    add(tr("Arrows, Shift+arrows"), tr("In the live view: orbit, pan"));
    add(tr("Arrows, Home, End"), tr("On a slider: move it (Alt: finely), to its ends"));
    ShortcutList(lines, this).exec();
}

} // namespace ember
