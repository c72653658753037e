#include "desktop/main_window.h"

#include "core/effect/edit.h"
#include "desktop/asset_loader.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/word_editor.h"
#include "desktop/files.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/textures/texture_bench.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QProgressBar>
#include <QSplitter>
#include <QStatusBar>
#include <QToolButton>
#include <QVBoxLayout>

#include <utility>

namespace ember {

namespace {

const QList<int> usual_sides = {336, 600, 344};

} // namespace

MainWindow::MainWindow(const QString& state_folder, int autosave_ms)
    : document_(state_folder, autosave_ms), player_(std::make_unique<Player>([this] { maker_->wake(); })),
      maker_(std::make_unique<PictureMaker>(*player_)), loader_(new AssetLoader(this)),
      files_(new Files(document_, this)), menu_(new QMenu(this)) {
    setWindowIcon(QIcon(QStringLiteral(":/icon.svg")));
    makeCommands();
    arrange();
    connectPanels();
    qApp->installEventFilter(this);
    figures_age_.start();
    driven_age_.start();
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
    top_ = new TopBar(menu_, {rewind_, play_, step_, without_cleanup_}, this);
    board_ = new BoardPanel(this);
    view_ = new LiveView(this);
    lens_bar_ = new LensBar(view_);
    lens_bar_->move(10, 8);
    detail_ = new DetailPanel(this);
    strip_ = new BudgetStrip(this);

    sides_ = new QSplitter(Qt::Horizontal, this);
    sides_->setChildrenCollapsible(false);
    sides_->setHandleWidth(2);
    sides_->addWidget(board_);
    sides_->addWidget(view_);
    sides_->addWidget(detail_);
    sides_->setStretchFactor(1, 1);
    sides_->setSizes(usual_sides);
    board_->setMinimumWidth(260);
    detail_->setMinimumWidth(320);
    auto* whole = new QSplitter(Qt::Vertical, this);
    whole->setChildrenCollapsible(false);
    whole->setHandleWidth(2);
    whole->addWidget(sides_);
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
    view_->setFocus();
}

void MainWindow::connectPanels() {
    connect(&document_, &Document::replaced, this, [this](const EffectPtr& effect) {
        shown_seed_ = effect->seed;
        without_cleanup_->setChecked(false);
        starts_anew_ = true;
        effect_camera_ = camera_of(effect->stage);
        view_->setCamera(effect_camera_);
    });
    connect(&document_, &Document::effectChanged, this, &MainWindow::onEffectChanged);
    connect(&document_, &Document::stateChanged, this, &MainWindow::onStateChanged);
    connect(&document_, &Document::keepingFailed, this, [this](const QString& why) {
        statusBar()->showMessage(tr("Unsaved work could not be kept: %1").arg(why), 10000);
    });

    connect(board_, &BoardPanel::selected, this, &MainWindow::select);
    connect(board_, &BoardPanel::addAsked, this, &MainWindow::chooseToAdd);
    connect(board_->board(), &Board::edited, this, &MainWindow::applyEdit);
    connect(board_->board(), &Board::gestureEnded, this, [this] { document_.endGesture(); });
    connect(board_->board(), &Board::renameRequested, this, [this](const std::string& id) {
        select(id);
        detail_->rename();
    });
    connect(board_->board(), &Board::groupRenameRequested, this, &MainWindow::renameGroup);
    connect(board_->board(), &Board::wordPressed, this, &MainWindow::editWord);
    connect(board_->board(), &Board::menuRequested, this,
            [this](const std::string&, const QPoint& place) { element_menu_->exec(place); });
    connect(detail_, &DetailPanel::edited, this, &MainWindow::applyEdit);
    connect(detail_, &DetailPanel::gestureEnded, this, [this] { document_.endGesture(); });
    connect(view_, &LiveView::edited, this, &MainWindow::applyEdit);
    connect(view_, &LiveView::gestureEnded, this, [this] { document_.endGesture(); });
    connect(view_, &LiveView::picked, this, &MainWindow::select);
    connect(lens_bar_, &LensBar::changed, this, [this] {
        const ForceLens& lens = lens_bar_->lens();
        view_->setLens(lens);
        player_->note_contacts(lens.kind == ForceLens::Kind::contacts);
        maker_->setTint(lens.kind == ForceLens::Kind::age ? DotTint::age : DotTint::look);
        maker_->setHeat(lens.kind == ForceLens::Kind::heat);
        maker_->setCutApart(lens.kind == ForceLens::Kind::cut ? std::optional(lens.apart) : std::nullopt);
    });
    connect(view_, &LiveView::focusAsked, maker_.get(), &PictureMaker::askPoint);
    connect(maker_.get(), &PictureMaker::pointFound, this, &MainWindow::focusOn, Qt::QueuedConnection);
    connect(
        maker_.get(), &PictureMaker::exported, this,
        [this](const QString& path, const QString& problem) {
            statusBar()->showMessage(
                problem.isEmpty() ? tr("Saved %1").arg(path) : tr("Not saved: %1").arg(problem), 8000);
        },
        Qt::QueuedConnection);
    connect(view_, &LiveView::fieldWanted, this,
            [this](const std::optional<FieldOrder>& order) { player_->set_lens(order); });
    connect(view_, &LiveView::pointed, this,
            [this](const std::optional<PointerRay>& ray) { player_->set_pointer(ray); });
    connect(view_, &LiveView::clicked, this, [this] { player_->click(); });
    connect(view_, &LiveView::digitPressed, this, [this](int digit) { player_->press(digit); });
    connect(detail_, &DetailPanel::selectRequested, this, &MainWindow::select);
    connect(detail_, &DetailPanel::textureRequested, this, &MainWindow::openTextureBench);
    connect(detail_, &DetailPanel::pickRequested, view_, &LiveView::pickColour);
    connect(strip_, &BudgetStrip::edited, this, &MainWindow::applyEdit);
    connect(strip_, &BudgetStrip::momentPointedAt, this, &MainWindow::goTo);
    connect(strip_, &BudgetStrip::gestureEnded, this, [this] { document_.endGesture(); });
    connect(top_, &TopBar::seedTyped, this, &MainWindow::setSeed);

    connect(view_, &LiveView::cameraChanged, this,
            [this](const Camera& camera) { maker_->setCamera(camera); });
    connect(view_, &LiveView::pictureSizeChanged, this, [this](QSize size) { maker_->setSize(size); });
    connect(loader_, &AssetLoader::started, this, &MainWindow::showReading);
    connect(loader_, &AssetLoader::progressed, reading_, [this](const QString& what, int percent) {
        reading_->setFormat(what + QStringLiteral("  %p %"));
        reading_->setValue(percent);
        view_->setAwaited(what);
    });
    connect(loader_, &AssetLoader::finished, this, [this] {
        reading_->hide();
        stop_reading_->hide();
        view_->setAwaited({});
        statusBar()->setVisible(!statusBar()->currentMessage().isEmpty());
        // What an effect did before it had its files is not what it does.
        starts_anew_ = std::exchange(lacks_files_, false);
        giveToPlayer();
        select(selection_);
    });
    connect(stop_reading_, &QToolButton::clicked, loader_, &AssetLoader::cancel);
    connect(maker_.get(), &PictureMaker::ready, this, &MainWindow::onShot, Qt::QueuedConnection);
}

// As wide as all its columns, as far as the view keeps some room; and back.
void MainWindow::widenBoard() {
    constexpr int least_view = 240;
    const QList<int> now = sides_->sizes();
    const int wanted = board_->board()->sizeHint().width() + 16;
    const int board = std::min(wanted, now[0] + now[1] - least_view);
    const bool is_wide = now[0] >= board;
    wide_board_->setChecked(!is_wide);
    const int next = is_wide ? usual_sides[0] : board;
    sides_->setSizes({next, now[0] + now[1] - next, now[2]});
}

void MainWindow::openTextureBench(const std::string& id) {
    if (texture_bench_ == nullptr) {
        texture_bench_ = new TextureBench(this);
        connect(texture_bench_, &TextureBench::edited, this, &MainWindow::applyEdit);
        connect(texture_bench_, &TextureBench::gestureEnded, this, [this] { document_.endGesture(); });
    }
    texture_bench_->show();
    giveToPlayer();
    texture_bench_->choose(id.empty() ? texture_bench_->chosen() : id);
    texture_bench_->raise();
    texture_bench_->activateWindow();
}

void MainWindow::select(const std::string& id) {
    if (find_texture(*document_.effect(), id) != nullptr) {
        return openTextureBench(id);
    }
    selection_ = id;
    board_->setSelection(id);
    // What is wrong with the files of a source's look is said with the source.
    const Element* element = selectedElement();
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    QStringList problems = {loader_->problemOf(id),
                            emitter != nullptr ? loader_->problemOf(emitter->look) : QString()};
    problems.removeAll(QString());
    detail_->setFiles(document_.folder(), problems.join('\n'));
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
        starts_anew_ = true;
        statusBar()->showMessage(tr("Another seed: started again from 0 s"), 4000);
    }
    if (const Camera camera = camera_of(effect->stage); camera != effect_camera_) {
        effect_camera_ = camera;
        view_->setCamera(camera);
    }
    if (word_editor_) {
        word_editor_->setEffect(effect);
    }
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
    const Assets assets = loader_->assetsFor(effect, document_.folder());
    if (std::exchange(starts_anew_, false)) {
        player_->start(effect, assets);
        lacks_files_ = loader_->isReading();
    } else {
        player_->set_effect(effect, assets);
    }
    if (texture_bench_ != nullptr) {
        texture_bench_->setEffect(effect, assets);
        const QString problem = loader_->problemOf(texture_bench_->chosen());
        texture_bench_->setFiles(document_.folder(), problem);
    }
}

void MainWindow::showReading() {
    reading_->setValue(0);
    reading_->setFormat(tr("Reading files"));
    view_->setAwaited(tr("Reading files"));
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
    // Figures change six times a second, what is driven twelve times: faster ones cannot be read and cost
    // time that the effect needs.
    constexpr int figures_ms = 160, driven_ms = 80;
    if (driven_age_.elapsed() > driven_ms || !player_->is_playing()) {
        driven_age_.restart();
        detail_->setReadings(shot.readings, costs_);
    }
    if (figures_age_.elapsed() > figures_ms || !player_->is_playing()) {
        figures_age_.restart();
        top_->setReadings(shot.readings, costs_);
        board_->board()->setReadings(shot.readings, costs_);
        strip_->update();
    }
    emit pictureShown();
}

void MainWindow::setPlaying(bool playing) {
    playing ? player_->play() : player_->pause();
    top_->setPlaying(playing);
    view_->setPlaying(playing);
}

// While a moment is pointed at it stands still; what played goes on from there.
void MainWindow::goTo(std::optional<double> time_s) {
    if (!time_s) {
        setPlaying(plays_on_);
        plays_on_ = false;
        return;
    }
    plays_on_ = plays_on_ || player_->is_playing();
    setPlaying(false);
    player_->go_to(*time_s);
}

void MainWindow::rewind() {
    player_->rewind();
}

void MainWindow::setSeed(uint32_t seed) {
    applyEdit(with_seed(*document_.effect(), seed), tr("change the seed"), {});
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

void MainWindow::closeEvent(QCloseEvent* event) {
    files_->mayLeave() ? event->accept() : event->ignore();
}

} // namespace ember
