#include "desktop/main_window.h"

#include "core/effect/track.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/folding_splitter.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/word_editor.h"
#include "desktop/dialogs/trial_sheet.h"
#include "desktop/files.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/strip/clip_lanes.h"
#include "desktop/strip/why_card.h"
#include "desktop/textures/texture_bench.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QStatusBar>
#include <QToolButton>
#include <QVBoxLayout>

#include <utility>

namespace ember {

namespace {

constexpr int board_width = 300, detail_width = 290, strip_height = 118;
constexpr int board_side = 0, detail_side = 2, strip_side = 1;

} // namespace

MainWindow::MainWindow(const QString& state_folder, int autosave_ms)
    : workbench_(state_folder, autosave_ms), files_(new Files(workbench_.document(), this)),
      menu_(new QMenu(this)) {
    setWindowIcon(QIcon(QStringLiteral(":/icon.svg")));
    makeCommands();
    arrange();
    connectPanels();
    qApp->installEventFilter(this);
    seen_.setSingleShot(true);
    seen_.setInterval(400);
    connect(&seen_, &QTimer::timeout, this, &MainWindow::keepHistoryPicture);
    figures_age_.start();
    driven_age_.start();
    resize(1280, 800);
    workbench_.pictureMaker().setSize(view_->pictureSize());
    workbench_.document().reset(starter_effect(), {});
    workbench_.setPlaying(true);
}

MainWindow::~MainWindow() {
    // Panels that go say that their gestures end, so they go while there is a document to hear it.
    delete takeCentralWidget();
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
    top_ = new TopBar(menu_, speeds_, machine_menu_, {rewind_, play_, step_, without_cleanup_}, this);
    board_ = new BoardPanel(this);
    view_ = new LiveView(this);
    lens_bar_ = new LensBar(view_);
    lens_bar_->move(10, 8);
    why_ = new WhyCard(view_);
    detail_ = new DetailPanel(this);
    strip_ = new BudgetStrip(this);

    sides_ = new FoldingSplitter(Qt::Horizontal, this);
    sides_->addWidget(board_);
    sides_->addWidget(view_);
    sides_->addWidget(detail_);
    sides_->setStretchFactor(1, 1);
    sides_->setFolds(board_side);
    sides_->setFolds(detail_side);
    board_->setMinimumWidth(240);
    detail_->setMinimumWidth(270);
    whole_ = new FoldingSplitter(Qt::Vertical, this);
    whole_->addWidget(sides_);
    whole_->addWidget(strip_);
    whole_->setFolds(strip_side);
    whole_->setStretchFactor(0, 1);

    auto* center = new QWidget(this);
    auto* layout = new QVBoxLayout(center);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(top_);
    layout->addWidget(whole_, 1);
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
    setAcceptDrops(true);
    view_->setFocus();
}

void MainWindow::connectPanels() {
    Workbench* bench = &workbench_;
    connect(bench, &Workbench::said, this, &MainWindow::say);
    connect(bench, &Workbench::opened, this, [this] {
        without_cleanup_->setChecked(false);
        has_flying_camera_ = false;
        strip_->follow();
    });
    connect(bench, &Workbench::effectChanged, this, &MainWindow::onEffectChanged);
    connect(&bench->loader(), &AssetLoader::finished, strip_,
            [this] { strip_->clips()->setLengths(workbench_.clipLengths()); });
    connect(bench, &Workbench::selectionChanged, this, &MainWindow::onSelection);
    connect(bench, &Workbench::chosen, board_->board(), &Board::setChosen);
    connect(bench, &Workbench::cameraChanged, view_, &LiveView::setCamera);
    connect(bench, &Workbench::playingChanged, top_, &TopBar::setPlaying);
    connect(bench, &Workbench::playingChanged, view_, &LiveView::setPlaying);
    connect(bench, &Workbench::speedChanged, top_, &TopBar::setSpeed);
    connect(bench, &Workbench::loopingChanged, strip_, [this](Workbench::Looping how) {
        strip_->setLoopWords(how == Workbench::Looping::off         ? QString()
                             : how == Workbench::Looping::as_it_was ? tr("loops")
                                                                    : tr("loops anew"));
    });
    connect(strip_, &BudgetStrip::roomWanted, this, [this](int height) {
        const int most = whole_->height() / 2; // the picture stays the larger one
        if (const int wanted = std::min(height, most); wanted > strip_->height()) {
            whole_->setSizes({whole_->height() - wanted - whole_->handleWidth(), wanted});
        }
    });
    connect(strip_, &BudgetStrip::spanMarked, bench, &Workbench::setSpan);
    connect(bench, &Workbench::shown, this, &MainWindow::onShot);
    connect(&bench->document(), &Document::stateChanged, this, &MainWindow::onStateChanged);

    const auto end_gesture = [bench] { bench->document().endGesture(); };
    connect(board_, &BoardPanel::selected, this, &MainWindow::select);
    connect(board_, &BoardPanel::addAsked, this, &MainWindow::chooseToAdd);
    connect(board_->board(), &Board::edited, bench, &Workbench::edit);
    connect(board_->board(), &Board::gestureEnded, bench, end_gesture);
    connect(board_->board(), &Board::renameRequested, this, [this](const std::string& id) {
        select(id);
        detail_->rename();
    });
    connect(board_->board(), &Board::groupRenameRequested, this, &MainWindow::renameGroup);
    connect(board_->board(), &Board::wordPressed, this, &MainWindow::editWord);
    connect(board_->board(), &Board::menuRequested, this,
            [this](const std::string&, const QPoint& place) { element_menu_->exec(place); });
    connect(detail_, &DetailPanel::edited, bench, &Workbench::edit);
    connect(detail_, &DetailPanel::gestureEnded, bench, end_gesture);
    connect(detail_, &DetailPanel::selectRequested, this, &MainWindow::select);
    connect(detail_, &DetailPanel::compareAsked, this, &MainWindow::compareValues);
    connect(detail_, &DetailPanel::tryAsked, this,
            [this](const std::string& holder, const std::string& parameter) {
                tryHere()->offerNumber(holder, parameter);
            });
    connect(detail_, &DetailPanel::textureRequested, this, &MainWindow::openTextureBench);
    connect(detail_, &DetailPanel::pickRequested, view_, &LiveView::pickColour);
    connect(strip_, &BudgetStrip::edited, bench, &Workbench::edit);
    connect(strip_, &BudgetStrip::gestureEnded, bench, end_gesture);
    connect(strip_, &BudgetStrip::selected, this, &MainWindow::select);
    connect(why_, &WhyCard::selected, this, &MainWindow::select);
    connect(strip_, &BudgetStrip::momentPointedAt, bench, &Workbench::goTo);
    connect(top_, &TopBar::seedTyped, bench, &Workbench::setSeed);
    connect(top_, &TopBar::timeTyped, this, [this](double time_s) {
        strip_->follow();
        workbench_.goTo(time_s);
        workbench_.goTo(std::nullopt); // and let go of
        view_->setFocus();
    });
    Machines* machines = &bench->machines();
    connect(machines, &Machines::changed, this, [this, machines] {
        const QString name =
            machines->chosen() ? QString::fromStdString(machines->chosen()->name) : QString();
        top_->setMachine(name, machines->isPredicting());
        strip_->setMachine(machines->isPredicting() ? name : QString());
    });
    connect(machines, &Machines::measuring, this, [this](double share) {
        say(tr("Measuring this machine, to predict for the other: %1 %").arg(int(share * 100)), 3000);
    });
    connect(machines, &Machines::failed, this, [this](const QString& why) {
        say(tr("What was measured could not be kept: %1").arg(why), 8000);
    });

    Player* player = &bench->player();
    PictureMaker* maker = &bench->pictureMaker();
    connect(view_, &LiveView::edited, bench, &Workbench::edit);
    connect(view_, &LiveView::gestureEnded, bench, end_gesture);
    connect(view_, &LiveView::picked, this, &MainWindow::select);
    connect(view_, &LiveView::focusAsked, maker, &PictureMaker::askPoint);
    connect(view_, &LiveView::flyingChanged, maker, &PictureMaker::setFlying);
    connect(view_, &LiveView::cameraChanged, maker, &PictureMaker::setCamera);
    connect(view_, &LiveView::pictureSizeChanged, maker, &PictureMaker::setSize);
    connect(view_, &LiveView::fieldWanted, bench,
            [player](const std::optional<FieldOrder>& order) { player->set_lens(order); });
    connect(view_, &LiveView::pointed, bench,
            [player](const std::optional<PointerRay>& ray) { player->set_pointer(ray); });
    connect(view_, &LiveView::clicked, bench, [player] { player->click(); });
    connect(view_, &LiveView::digitPressed, bench, [player](int digit) { player->press(digit); });
    connect(lens_bar_, &LensBar::changed, this, [this, player, maker] {
        const ForceLens& lens = lens_bar_->lens();
        view_->setLens(lens);
        player->note_contacts(lens.kind == ForceLens::Kind::contacts);
        maker->setTint(lens.kind == ForceLens::Kind::age ? DotTint::age : DotTint::look);
        maker->setHeat(lens.kind == ForceLens::Kind::heat);
        maker->setCutApart(lens.kind == ForceLens::Kind::cut ? std::optional(lens.apart) : std::nullopt);
    });
    connectReading();
}

// Files that the effect names are read with progress and cancel.
void MainWindow::connectReading() {
    AssetLoader* loader = &workbench_.loader();
    connect(loader, &AssetLoader::started, this, [this] {
        reading_->setValue(0);
        reading_->setFormat(tr("Reading files"));
        view_->setAwaited(tr("Reading files"));
        reading_->show();
        stop_reading_->show();
        statusBar()->show();
    });
    connect(loader, &AssetLoader::progressed, reading_, [this](const QString& what, int percent) {
        reading_->setFormat(what + QStringLiteral("  %p %"));
        reading_->setValue(percent);
        view_->setAwaited(what);
    });
    connect(loader, &AssetLoader::finished, this, [this] {
        reading_->hide();
        stop_reading_->hide();
        view_->setAwaited({});
        statusBar()->setVisible(!statusBar()->currentMessage().isEmpty());
    });
    connect(stop_reading_, &QToolButton::clicked, loader, &AssetLoader::cancel);
}

void MainWindow::say(const QString& text, int ms) {
    statusBar()->showMessage(text, ms);
}

// Each panel by its key; F9 all at once, so that nothing but the picture is left.
void MainWindow::foldPanel(Panel panel) {
    FoldingSplitter* splitter = panel == Panel::strip ? whole_ : sides_;
    const int side = panel == Panel::board ? board_side : panel == Panel::detail ? detail_side : strip_side;
    splitter->fold(side, !splitter->isFolded(side));
    if (panel != Panel::strip && splitter->isFolded(side)) {
        view_->setFocus();
    }
}

// The view has what the panels leave.
void MainWindow::showEvent(QShowEvent* event) {
    QMainWindow::showEvent(event);
    if (!std::exchange(has_been_shown_, true)) {
        centralWidget()->layout()->activate();
        // A wide window has room for longer names too.
        const int board = std::clamp(board_width + (width() - 1280) / 4, board_width, 440);
        sides_->setSizes({board, width() - board - detail_width - 2 * sides_->handleWidth(), detail_width});
        whole_->setSizes({whole_->height() - strip_height - whole_->handleWidth(), strip_height});
    }
}

// An Escape that nobody else wants.
void MainWindow::keyPressEvent(QKeyEvent* event) {
    if (event->key() != Qt::Key_Escape || !workbench_.endRacing()) {
        QMainWindow::keyPressEvent(event);
    }
}

void MainWindow::showOnlyPicture(bool only) {
    if (only) {
        sides_before_ = sides_->sizes();
        heights_before_ = whole_->sizes();
    }
    top_->setVisible(!only);
    for (QWidget* panel :
         {static_cast<QWidget*>(board_), static_cast<QWidget*>(detail_), static_cast<QWidget*>(strip_)}) {
        panel->setVisible(!only);
    }
    if (!only) {
        sides_->setSizes(sides_before_);
        whole_->setSizes(heights_before_);
    }
    view_->setFocus();
}

// As wide as all its columns, as far as the view keeps some room; and back.
void MainWindow::widenBoard() {
    constexpr int least_view = 240;
    const QList<int> now = sides_->sizes();
    const int wanted = board_->board()->wideWidth() + 16;
    const int board = std::min(wanted, now[0] + now[1] - least_view);
    const bool is_wide = now[0] >= board;
    wide_board_->setChecked(!is_wide);
    const int next = is_wide ? board_width : board;
    sides_->setSizes({next, now[0] + now[1] - next, now[2]});
}

void MainWindow::openTextureBench(const std::string& id) {
    if (texture_bench_ == nullptr) {
        texture_bench_ = new TextureBench(this);
        connect(texture_bench_, &TextureBench::edited, &workbench_, &Workbench::edit);
        connect(texture_bench_, &TextureBench::gestureEnded, &workbench_,
                [this] { workbench_.document().endGesture(); });
        connect(&workbench_, &Workbench::assetsChanged, texture_bench_,
                [this](const Assets& assets) { showTextures(assets); });
    }
    texture_bench_->show();
    showTextures(workbench_.assets());
    texture_bench_->choose(id.empty() ? texture_bench_->chosen() : id);
    texture_bench_->raise();
    texture_bench_->activateWindow();
}

void MainWindow::showTextures(const Assets& assets) {
    texture_bench_->setEffect(workbench_.effect(), assets);
    texture_bench_->setFiles(workbench_.document().folder(),
                             workbench_.loader().problemOf(texture_bench_->chosen()));
}

void MainWindow::select(const std::string& id) {
    find_texture(*workbench_.effect(), id) != nullptr ? openTextureBench(id) : workbench_.select(id);
}

void MainWindow::onSelection(const std::string& id) {
    const EffectPtr& effect = workbench_.effect();
    board_->setSelection(id);
    // What is wrong with the files of a source's look is said with the source.
    const AssetLoader& loader = workbench_.loader();
    const Element* element = workbench_.selectedElement();
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    QStringList problems = {loader.problemOf(id),
                            emitter != nullptr ? loader.problemOf(emitter->look) : QString()};
    problems.removeAll(QString());
    detail_->setFiles(workbench_.document().folder(), problems.join('\n'));
    detail_->setSelection(id);
    lens_bar_->setEffect(*effect, id);
    view_->setSelection(effect, id);
    for (QAction* action : element_commands_) {
        action->setEnabled(element != nullptr);
    }
}

void MainWindow::onEffectChanged(const EffectPtr& effect) {
    if (word_editor_) {
        word_editor_->setEffect(effect);
    }
    // A camera that is keyed is looked through from then on.
    if (const bool flies = has_flying_camera(*effect); flies != has_flying_camera_) {
        has_flying_camera_ = flies;
        view_->setFlying(flies);
    }
    seen_.start();
    board_->board()->setEffect(effect);
    strip_->setEffect(effect);
    strip_->clips()->setLengths(workbench_.clipLengths());
    detail_->setEffect(effect);
}

void MainWindow::onStateChanged() {
    const Document& document = workbench_.document();
    const History& history = document.history();
    top_->setEffect(*document.effect(), document.isSaved());
    setWindowTitle(document.displayName() + (document.isSaved() ? "" : tr(" (edited)")) +
                   tr(" - Crisp Ember"));
    undo_->setEnabled(history.can_undo());
    redo_->setEnabled(history.can_redo());
    undo_->setText(tr("Undo %1").arg(QString::fromStdString(history.undo_label())));
    redo_->setText(tr("Redo %1").arg(QString::fromStdString(history.redo_label())));
}

void MainWindow::onShot(const Shot& shot) {
    const SmoothedCosts& costs = workbench_.costs();
    const bool is_playing = workbench_.isPlaying();
    const Readings& readings = workbench_.readings();
    view_->setShot(&shot);
    detail_->setNow(readings.time_s);
    if (readings.time_s >= 0) {
        strip_->addReadings(readings, workbench_.steps());
        why_->setWhy(strip_->why());
    }
    // Figures change six times a second, what is driven twelve times: faster ones cannot be read and cost
    // time that the effect needs.
    constexpr int figures_ms = 160, driven_ms = 80;
    if (driven_age_.elapsed() > driven_ms || !is_playing) {
        driven_age_.restart();
        detail_->setDriven(readings);
    }
    if (figures_age_.elapsed() > figures_ms || !is_playing) {
        figures_age_.restart();
        top_->setReadings(readings, costs);
        board_->board()->setReadings(readings, costs);
        detail_->setFigures(readings, costs);
        strip_->update();
    }
    emit pictureShown();
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(event);
        const auto* field = qobject_cast<QLineEdit*>(watched);
        const bool asks = key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo);
        if (asks && field != nullptr && !field->isModified()) {
            event->ignore();
            return true;
        }
    }
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    event->mimeData()->hasUrls() ? event->acceptProposedAction() : event->ignore();
}

// Once the drag is over: what is dropped may ask, and whoever dragged should not wait for that.
void MainWindow::dropEvent(QDropEvent* event) {
    event->acceptProposedAction();
    QStringList paths;
    for (const QUrl& url : event->mimeData()->urls()) {
        paths << (url.isLocalFile() ? url.toLocalFile() : QString());
    }
    paths.removeAll(QString());
    if (paths.isEmpty()) {
        return say(tr("Only files of this machine can be dropped."), 8000);
    }
    const QPoint place = mapToGlobal(event->position().toPoint());
    QTimer::singleShot(0, this, [this, paths, place] {
        for (const QString& path : paths) {
            take(path, place);
        }
    });
}

void MainWindow::closeEvent(QCloseEvent* event) {
    files_->mayLeave() ? event->accept() : event->ignore();
}

} // namespace ember
