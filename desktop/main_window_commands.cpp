// The window's commands: its menus, its shortcuts, and what they do.
#include "desktop/main_window.h"

#include "core/effect/edit.h"
#include "desktop/asset_loader.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/files.h"
#include "desktop/finder.h"
#include "desktop/gallery/offers.h"
#include "desktop/interface_size.h"
#include "desktop/shortcut_list.h"
#include "desktop/theme.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QAction>
#include <QApplication>
#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QProcess>
#include <QRegularExpression>
#include <QStatusBar>
#include <QToolButton>

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
    command(menu_, tr("Rename the effect..."), {}, tr("The name in the top bar"), [this] { renameEffect(); });
    command(menu_, tr("Read files again"), {}, tr("Meshes, grids and images that have changed on disk"),
            [this] {
                loader_->forget();
                giveToPlayer();
            });
    menu_->addSeparator();
    undo_ = command(menu_, tr("Undo"), QKeySequence::Undo, tr("Take the last edit back"), [this] {
        const QString what = QString::fromStdString(document_.history().undo_label());
        document_.undo();
        statusBar()->showMessage(tr("Taken back: %1").arg(what), 4000);
    });
    redo_ = command(menu_, tr("Redo"), QKeySequence(tr("Ctrl+Shift+Z")), tr("Do again what was taken back"),
                    [this] {
                        const QString what = QString::fromStdString(document_.history().redo_label());
                        document_.redo();
                        statusBar()->showMessage(tr("Done again: %1").arg(what), 4000);
                    });
    // Also while the texture bench has the keyboard.
    undo_->setShortcutContext(Qt::ApplicationShortcut);
    redo_->setShortcutContext(Qt::ApplicationShortcut);
    element_menu_ = menu_->addMenu(tr("Element"));
    makeElementCommands(element_menu_);
    menu_->addSeparator();

    QMenu* run = menu_->addMenu(tr("Run"));
    play_ = command(run, tr("Play or pause"), QKeySequence(tr("P")), tr("Play or pause"),
                    [this] { setPlaying(!player_->is_playing()); });
    step_ =
        command(run, tr("One frame"), QKeySequence(tr("N")), tr("One step of 1/60 s, then pause"), [this] {
            setPlaying(false);
            player_->step_once();
        });
    command(run, tr("One frame back"), QKeySequence(tr("Shift+N")),
            tr("Back by one step of 1/60 s, then pause; as far as has been played"), [this] {
                setPlaying(false);
                player_->go_by(-1);
            });
    rewind_ =
        command(run, tr("Back to the start"), QKeySequence(tr("B")), tr("Back to 0 s"), [this] { rewind(); });
    without_cleanup_ =
        command(run, tr("Without cleanup"), QKeySequence(tr("U")),
                tr("As if no zone and no rule took pieces away: what they are good for. Pieces "
                   "pile up, and the frame time climbs. No part of the effect"),
                [] {});
    without_cleanup_->setCheckable(true);
    connect(without_cleanup_, &QAction::toggled, this, [this](bool on) { player_->set_cleanup(!on); });
    QMenu* view = menu_->addMenu(tr("View"));
    command(view, tr("The effect's own view"), QKeySequence(tr("H")), tr("Camera as the effect has it"),
            [this] { view_->setCamera(camera_of(document_.effect()->stage)); });
    command(view, tr("Keep this view"), QKeySequence(tr("Shift+H")),
            tr("Make the live view's camera the effect's own"), [this] { keepView(); });
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
                tr("Starts the program again, at this size; your desktop's own scaling comes on top"),
                [this, percent] { restartAt(percent); });
    }
    menu_->addSeparator();
    command(menu_, tr("Find..."), QKeySequence(tr("F3")),
            tr("A command, an element or something to add, by a few letters"), [this] { find(); });
    command(menu_, tr("Keyboard shortcuts"), QKeySequence(tr("F1")), tr("All shortcuts"),
            [this] { showShortcuts(); });
    command(menu_, tr("Quit"), QKeySequence(tr("Ctrl+Q")), tr("Close the window"), [this] { close(); });
}

void MainWindow::chooseToStart() {
    Gallery gallery(tr("Start from"), offers_to_start(), this);
    if (gallery.exec() == QDialog::Accepted) {
        const QString path = gallery.chosen().key;
        path.isEmpty() ? files_->newEffect() : files_->openCopy(path);
    }
}

void MainWindow::savePicture() {
    const QSize shown = view_->pictureSize();
    bool ok = false;
    const QString typed = QInputDialog::getText(
        this, tr("Save the picture"), tr("Width x height in pixels, up to 16384x16384:"), QLineEdit::Normal,
        QStringLiteral("%1x%2").arg(shown.width() * 2).arg(shown.height() * 2), &ok);
    if (!ok) {
        return;
    }
    static const QRegularExpression form(QStringLiteral("^\\s*(\\d{1,5})\\s*x\\s*(\\d{1,5})\\s*$"));
    const QRegularExpressionMatch match = form.match(typed);
    const QSize size(match.captured(1).toInt(), match.captured(2).toInt());
    if (size.width() < 1 || size.height() < 1 || size.width() > 16384 || size.height() > 16384) {
        statusBar()->showMessage(
            tr("Not saved: found \"%1\", expected width x height from 1x1 to 16384x16384").arg(typed), 8000);
        return;
    }
    const QStringList kinds = {tr("Picture as on the screen (*.png)"), tr("Linear light, OpenEXR (*.exr)"),
                               tr("Without the stage, transparent (*.png)"),
                               tr("Without the stage, linear light and opacity, OpenEXR (*.exr)")};
    QFileDialog dialog(this, tr("Save the picture"));
    dialog.setOption(QFileDialog::DontUseNativeDialog);
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setNameFilters(kinds);
    dialog.setDefaultSuffix(QStringLiteral("png"));
    connect(&dialog, &QFileDialog::filterSelected, &dialog, [&](const QString& kind) {
        dialog.setDefaultSuffix(kinds.indexOf(kind) % 2 == 0 ? QStringLiteral("png") : QStringLiteral("exr"));
    });
    dialog.selectFile(document_.displayName().toLower().replace(' ', '-') + ".png");
    if (dialog.exec() == QDialog::Accepted) {
        statusBar()->showMessage(tr("Drawing %1 x %2 pixels").arg(size.width()).arg(size.height()));
        maker_->exportPicture(dialog.selectedFiles().constFirst(),
                              {size.width(), size.height(), kinds.indexOf(dialog.selectedNameFilter()) >= 2});
    }
}

void MainWindow::focusOn(const Vec3& point) {
    Effect effect = *document_.effect();
    effect.stage.focus = point;
    applyEdit(effect, tr("focus"), {});
    if (effect.stage.aperture <= 0) {
        statusBar()->showMessage(tr("The focus is set; it shows once the stage's aperture is open"), 6000);
    }
}

void MainWindow::restartAt(int percent) {
    if (!files_->mayLeave()) {
        return;
    }
    set_interface_size(percent);
    const QStringList files = document_.path().isEmpty() ? QStringList() : QStringList(document_.path());
    document_.reset(*document_.effect(), document_.path(), document_.folder()); // nothing is unsaved any more
    QProcess::startDetached(QCoreApplication::applicationFilePath(), files);
    close();
}

void MainWindow::keepView() {
    const Camera& camera = view_->camera();
    Effect effect = *document_.effect();
    effect.stage.camera_target = camera.target;
    effect.stage.camera_distance = camera.distance;
    effect.stage.camera_azimuth = camera.azimuth;
    effect.stage.camera_height = camera.height;
    effect.stage.field_of_view = camera.field_of_view;
    applyEdit(effect, tr("keep the view"), {});
}

void MainWindow::renameEffect() {
    bool ok = false;
    const QString name = QInputDialog::getText(this, tr("Rename the effect"), tr("Name:"), QLineEdit::Normal,
                                               document_.displayName(), &ok);
    if (ok && !name.trimmed().isEmpty()) {
        applyEdit(with_effect_name(*document_.effect(), name.trimmed().left(60).toStdString()),
                  tr("rename the effect"), {});
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
    for (const Element& element : document_.effect()->elements) {
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
