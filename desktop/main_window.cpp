#include "desktop/main_window.h"

#include "core/effect/edit.h"
#include "desktop/asset_loader.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/files.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QAction>
#include <QCloseEvent>
#include <QInputDialog>
#include <QMenu>
#include <QMessageBox>
#include <QProgressBar>
#include <QSplitter>
#include <QStatusBar>
#include <QToolButton>
#include <QVBoxLayout>

namespace ember {

MainWindow::MainWindow(const QString& state_folder, int autosave_ms)
    : document_(state_folder, autosave_ms), player_(std::make_unique<Player>([this] { maker_->wake(); })),
      maker_(std::make_unique<PictureMaker>(*player_)), loader_(new AssetLoader(this)),
      files_(new Files(document_, this)), menu_(new QMenu(this)) {
    setWindowIcon(QIcon(QStringLiteral(":/icon.svg")));
    makeCommands();
    arrange();
    connectPanels();
    figures_age_.start();
    resize(1280, 800);
    maker_->setSize(view_->pictureSize());
    document_.reset(starter_effect(), {});
    setPlaying(true);
}

MainWindow::~MainWindow() {
    // Panels that go say that their gestures end, so they go while there is a document to hear it.
    delete takeCentralWidget();
    // The player calls the picture maker, and the picture maker reads the player's frames.
    player_->stop();
    maker_.reset();
}

QAction* MainWindow::command(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                             auto run) {
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
    command(menu_, tr("New"), QKeySequence::New, tr("A small effect to start from"),
            [this] { files_->newEffect(); });
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
    command(menu_, tr("Rename the effect..."), {}, tr("The name in the top bar"), [this] { renameEffect(); });
    command(menu_, tr("Read files again"), {}, tr("Meshes, grids and images that have changed on disk"),
            [this] {
                loader_->forget();
                giveToPlayer();
            });
    menu_->addSeparator();
    undo_ = command(menu_, tr("Undo"), QKeySequence::Undo, tr("Take the last edit back"),
                    [this] { document_.undo(); });
    redo_ = command(menu_, tr("Redo"), QKeySequence(tr("Ctrl+Shift+Z")), tr("Do again what was taken back"),
                    [this] { document_.redo(); });
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
    rewind_ =
        command(run, tr("Back to the start"), QKeySequence(tr("B")), tr("Back to 0 s"), [this] { rewind(); });
    QMenu* view = menu_->addMenu(tr("View"));
    command(view, tr("The effect's own view"), QKeySequence(tr("H")), tr("Camera as the effect has it"),
            [this] { view_->setCamera(camera_of(document_.effect()->stage)); });
    command(view, tr("Keep this view"), QKeySequence(tr("Shift+H")),
            tr("Make the live view's camera the effect's own"), [this] { keepView(); });
    const auto focus = [&](const QString& text, const char* keys, QWidget* (MainWindow::*panel)() const) {
        command(view, text, QKeySequence(QLatin1String(keys)), tr("Move the keyboard there"),
                [this, panel] { (this->*panel)()->setFocus(); });
    };
    command(view, tr("Handles"), QKeySequence(tr("K")), tr("Show or hide the handles of what is selected"),
            [this] { view_->setHandlesShown(!view_->handlesShown()); });
    command(view, tr("Next lens"), QKeySequence(tr("L")), tr("Picture, arrows, streamlines, slice"),
            [this] { lens_bar_->next(); });
    focus(tr("To the board"), "Alt+1", &MainWindow::boardWidget);
    focus(tr("To the live view"), "Alt+2", &MainWindow::viewWidget);
    focus(tr("To the details"), "Alt+3", &MainWindow::detailWidget);
    command(view, tr("Open the menu"), QKeySequence(tr("F10")), tr("What the effect's name opens"),
            [this] { top_->openMenu(); });
    menu_->addSeparator();
    command(menu_, tr("Keyboard shortcuts"), QKeySequence(tr("F1")), tr("All shortcuts"),
            [this] { showShortcuts(); });
    command(menu_, tr("Quit"), QKeySequence(tr("Ctrl+Q")), tr("Close the window"), [this] { close(); });
}

void MainWindow::makeElementCommands(QMenu* menu) {
    command(menu, tr("Add a source..."), QKeySequence(tr("Ctrl+1")), tr("Choose one from a menu"),
            [this] { board_->addSourceButton()->showMenu(); });
    command(menu, tr("Add an influence..."), QKeySequence(tr("Ctrl+2")), tr("Choose one from a menu"),
            [this] { board_->addInfluenceButton()->showMenu(); });
    command(menu, tr("Add a mover or modulator..."), QKeySequence(tr("Ctrl+3")), tr("Choose one from a menu"),
            [this] { board_->addMotionButton()->showMenu(); });
    const auto on_element = [&](const QString& text, const QString& keys, const QString& tip, auto run) {
        element_commands_.push_back(command(menu, text, QKeySequence(keys), tip, run));
    };
    on_element(tr("Duplicate"), tr("Ctrl+D"), tr("A copy with the same links; a source's look is shared"),
               [this] { duplicateSelected(); });
    on_element(tr("Rename"), tr("F2"), tr("Type another name"), [this] { detail_->rename(); });
    on_element(tr("Delete"), tr("Del"), tr("Take the element off the board"), [this] { removeSelected(); });
    on_element(tr("Mute"), tr("M"), tr("As if it were not there, and back"), [this] {
        applyEdit(with_muted(*document_.effect(), selection_, !selectedElement()->muted), tr("mute"), {});
    });
    on_element(tr("Solo"), tr("S"), tr("Only the soloed ones of its side, and back"), [this] {
        applyEdit(with_solo(*document_.effect(), selection_, !selectedElement()->solo), tr("solo"), {});
    });
}

QWidget* MainWindow::boardWidget() const {
    return board_->board();
}

QWidget* MainWindow::viewWidget() const {
    return view_;
}

QWidget* MainWindow::detailWidget() const {
    return detail_->firstField();
}

void MainWindow::arrange() {
    top_ = new TopBar(menu_, rewind_, play_, step_, this);
    board_ = new BoardPanel(this);
    view_ = new LiveView(this);
    lens_bar_ = new LensBar(view_);
    lens_bar_->move(10, 8);
    detail_ = new DetailPanel(this);
    strip_ = new BudgetStrip(this);

    auto* middle = new QSplitter(Qt::Horizontal, this);
    middle->setChildrenCollapsible(false);
    middle->setHandleWidth(2);
    middle->addWidget(board_);
    middle->addWidget(view_);
    middle->addWidget(detail_);
    middle->setStretchFactor(1, 1);
    middle->setSizes({336, 600, 344});
    board_->setMinimumWidth(260);
    detail_->setMinimumWidth(320);
    auto* whole = new QSplitter(Qt::Vertical, this);
    whole->setChildrenCollapsible(false);
    whole->setHandleWidth(2);
    whole->addWidget(middle);
    whole->addWidget(strip_);
    whole->setStretchFactor(0, 1);
    whole->setSizes({576, 174});

    auto* center = new QWidget(this);
    auto* layout = new QVBoxLayout(center);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(top_);
    layout->addWidget(whole, 1);
    setCentralWidget(center);
    reading_ = new QProgressBar(this);
    reading_->setRange(0, 100);
    reading_->setFixedWidth(320);
    stop_reading_ = new QToolButton(this);
    stop_reading_->setText(tr("Cancel"));
    stop_reading_->setToolTip(tr("Stops reading; elements that lack their file do nothing."));
    statusBar()->addPermanentWidget(reading_);
    statusBar()->addPermanentWidget(stop_reading_);
    reading_->hide();
    stop_reading_->hide();
    // The status bar takes room only while it says something.
    statusBar()->hide();
    connect(statusBar(), &QStatusBar::messageChanged, this, [this](const QString& text) {
        statusBar()->setVisible(!text.isEmpty() || !reading_->isHidden());
    });
    for (QSplitter* splitter : {middle, whole}) {
        splitter->setStyleSheet(QStringLiteral("QSplitter::handle { background: #313b41; }"));
    }
    view_->setFocus();
}

void MainWindow::connectPanels() {
    connect(&document_, &Document::replaced, this, [this](const EffectPtr& effect) {
        shown_seed_ = effect->seed;
        player_->rewind();
        effect_camera_ = camera_of(effect->stage);
        view_->setCamera(effect_camera_);
    });
    connect(&document_, &Document::effectChanged, this, &MainWindow::onEffectChanged);
    connect(&document_, &Document::stateChanged, this, &MainWindow::onStateChanged);
    connect(&document_, &Document::keepingFailed, this, [this](const QString& why) {
        statusBar()->showMessage(tr("Unsaved work could not be kept: %1").arg(why), 10000);
    });

    connect(board_, &BoardPanel::selected, this, &MainWindow::select);
    connect(board_, &BoardPanel::addRequested, this, &MainWindow::add);
    connect(board_->board(), &Board::edited, this, &MainWindow::applyEdit);
    connect(board_->board(), &Board::gestureEnded, this, [this] { document_.endGesture(); });
    connect(board_->board(), &Board::renameRequested, this, [this](const std::string& id) {
        select(id);
        detail_->rename();
    });
    connect(board_->board(), &Board::menuRequested, this,
            [this](const std::string&, const QPoint& place) { element_menu_->exec(place); });
    connect(detail_, &DetailPanel::edited, this, &MainWindow::applyEdit);
    connect(detail_, &DetailPanel::gestureEnded, this, [this] { document_.endGesture(); });
    connect(view_, &LiveView::edited, this, &MainWindow::applyEdit);
    connect(view_, &LiveView::gestureEnded, this, [this] { document_.endGesture(); });
    connect(view_, &LiveView::picked, this, &MainWindow::select);
    connect(lens_bar_, &LensBar::changed, this, [this] { view_->setLens(lens_bar_->lens()); });
    connect(view_, &LiveView::fieldWanted, this,
            [this](const std::optional<FieldOrder>& order) { player_->set_lens(order); });
    connect(detail_, &DetailPanel::selectRequested, this, &MainWindow::select);
    connect(detail_, &DetailPanel::pickRequested, view_, &LiveView::pickColour);
    connect(strip_, &BudgetStrip::edited, this, &MainWindow::applyEdit);
    connect(strip_, &BudgetStrip::gestureEnded, this, [this] { document_.endGesture(); });
    connect(top_, &TopBar::seedTyped, this, &MainWindow::setSeed);

    connect(view_, &LiveView::cameraChanged, this,
            [this](const Camera& camera) { maker_->setCamera(camera); });
    connect(view_, &LiveView::pictureSizeChanged, this, [this](QSize size) { maker_->setSize(size); });
    connect(loader_, &AssetLoader::started, this, &MainWindow::showReading);
    connect(loader_, &AssetLoader::progressed, reading_, [this](const QString& what, int percent) {
        reading_->setFormat(what + QStringLiteral("  %p %"));
        reading_->setValue(percent);
    });
    connect(loader_, &AssetLoader::finished, this, [this] {
        reading_->hide();
        stop_reading_->hide();
        statusBar()->setVisible(!statusBar()->currentMessage().isEmpty());
        giveToPlayer();
        select(selection_);
    });
    connect(stop_reading_, &QToolButton::clicked, loader_, &AssetLoader::cancel);
    connect(maker_.get(), &PictureMaker::ready, this, &MainWindow::onShot, Qt::QueuedConnection);
}

void MainWindow::select(const std::string& id) {
    selection_ = id;
    board_->setSelection(id);
    detail_->setFiles(document_.folder(), loader_->problemOf(id));
    detail_->setSelection(id);
    maker_->watch(id);
    lens_bar_->setEffect(*document_.effect(), id);
    view_->setSelection(document_.effect(), id);
    for (QAction* action : element_commands_) {
        action->setEnabled(selectedElement() != nullptr);
    }
}

const Element* MainWindow::selectedElement() const {
    return find_element(*document_.effect(), selection_);
}

void MainWindow::applyEdit(const Effect& effect, const QString& label, const QString& gesture) {
    if (const auto refusal = whole_refusal(effect)) {
        statusBar()->showMessage(tr("Not done: %1").arg(QString::fromStdString(*refusal)), 10000);
        onEffectChanged(document_.effect());
        return;
    }
    document_.apply(effect, label, gesture);
}

void MainWindow::onEffectChanged(const EffectPtr& effect) {
    if (effect->seed != shown_seed_) {
        shown_seed_ = effect->seed;
        player_->rewind();
        statusBar()->showMessage(tr("Another seed: started again from 0 s"), 4000);
    }
    if (const Camera camera = camera_of(effect->stage); camera != effect_camera_) {
        effect_camera_ = camera;
        view_->setCamera(camera);
    }
    maker_->setEffect(effect);
    giveToPlayer();
    board_->board()->setEffect(effect);
    strip_->setEffect(effect);
    detail_->setEffect(effect);
    lens_bar_->setEffect(*effect, selection_);
    view_->setSelection(effect, selection_);
    if (!find_holder(*effect, selection_)) {
        selection_ = effect->elements.empty() ? std::string(stage_id) : effect->elements.front().id;
    }
    select(selection_);
}

// The effect with what has been read for it so far.
void MainWindow::giveToPlayer() {
    const EffectPtr& effect = document_.effect();
    player_->set_effect(effect, loader_->assetsFor(effect, document_.folder()));
}

void MainWindow::showReading() {
    reading_->setValue(0);
    reading_->setFormat(tr("Reading files"));
    reading_->show();
    stop_reading_->show();
    statusBar()->show();
}

void MainWindow::onStateChanged() {
    const History& history = document_.history();
    top_->setEffect(*document_.effect(), document_.isSaved());
    setWindowTitle(document_.displayName() + (document_.isSaved() ? "" : tr(" (edited)")) +
                   tr(" - Crisp Ember"));
    undo_->setEnabled(history.can_undo());
    redo_->setEnabled(history.can_redo());
    undo_->setText(tr("Undo %1").arg(QString::fromStdString(history.undo_label())));
    redo_->setText(tr("Redo %1").arg(QString::fromStdString(history.redo_label())));
}

void MainWindow::onShot() {
    if (!maker_->takeShot()) {
        return;
    }
    const Shot& shot = maker_->shot();
    view_->setShot(&shot);
    costs_.add(shot.readings);
    if (shot.readings.time_s >= 0) {
        strip_->addReadings(shot.readings);
    }
    // Figures change a dozen times a second: faster ones cannot be read and cost time that the effect needs.
    if (figures_age_.elapsed() > 80 || !player_->is_playing()) {
        figures_age_.restart();
        top_->setReadings(shot.readings, costs_);
        board_->board()->setReadings(shot.readings, costs_);
        detail_->setReadings(shot.readings, costs_);
        strip_->update();
    }
    emit pictureShown();
}

void MainWindow::setPlaying(bool playing) {
    playing ? player_->play() : player_->pause();
    top_->setPlaying(playing);
    view_->setPlaying(playing);
}

void MainWindow::rewind() {
    player_->rewind();
}

void MainWindow::setSeed(uint32_t seed) {
    applyEdit(with_seed(*document_.effect(), seed), tr("change the seed"), {});
}

void MainWindow::add(const QString& type_key) {
    std::string id;
    const Effect effect = with_new_element(*document_.effect(), *find_type(type_key.toStdString()), id);
    applyEdit(effect, tr("add %1").arg(QString::fromStdString(find_element(effect, id)->name)), {});
    if (find_element(*document_.effect(), id) != nullptr) {
        select(id);
    }
}

void MainWindow::duplicateSelected() {
    std::string id;
    const Effect effect = with_duplicate(*document_.effect(), selection_, id);
    applyEdit(effect, tr("duplicate %1").arg(QString::fromStdString(selectedElement()->name)), {});
    if (find_element(*document_.effect(), id) != nullptr) {
        select(id);
    }
}

void MainWindow::removeSelected() {
    const QString name = QString::fromStdString(selectedElement()->name);
    applyEdit(without_element(*document_.effect(), selection_), tr("delete %1").arg(name), {});
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

void MainWindow::showShortcuts() {
    QString rows;
    for (const QAction* action : commands_) {
        if (!action->shortcut().isEmpty()) {
            rows += QStringLiteral("<tr><td style='padding-right:24px'><b>%1</b></td><td>%2</td></tr>")
                        .arg(action->shortcut().toString(QKeySequence::NativeText).toHtmlEscaped(),
                             action->text().toHtmlEscaped());
        }
    }
    const QString board =
        tr("<p><b>On the board:</b> arrows move, + and - turn a dial (Alt: finely), Space links, Enter types "
           "a weight.<br>"
           "<b>In the live view:</b> arrows orbit, Shift+arrows pan, + and - zoom.<br>"
           "<b>On a slider:</b> arrows (Alt: finely), Home, End, Space for the other end of a range.</p>");
    QMessageBox box(QMessageBox::NoIcon, tr("Keyboard shortcuts"), "<table>" + rows + "</table>" + board,
                    QMessageBox::Close, this);
    box.exec();
}

void MainWindow::closeEvent(QCloseEvent* event) {
    files_->mayLeave() ? event->accept() : event->ignore();
}

} // namespace ember
