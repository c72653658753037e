#include "desktop/compare/compare_window.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/compare/compare_view.h"
#include "desktop/controls/choice_box.h"
#include "desktop/theme.h"
#include "desktop/workbench/workbench.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr double plotted_s = 8;
const QColor colour_a(0xe8, 0xe1, 0xd3), colour_b(0xff, 0x7f, 0x45);

} // namespace

PairPlot::PairPlot(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(84);
    setAccessibleName(tr("Costs of both versions"));
    setToolTip(tr("Milliseconds of each frame, step and picture, of both versions over the last %1 s: A "
                  "pale, B orange and dashed; "
                  "the dashed line across is the frame limit.")
                   .arg(plotted_s));
}

void PairPlot::add(const std::vector<PairCost>& costs) {
    for (const PairCost& cost : costs) {
        if (!costs_.empty() && cost.time_s <= costs_.back().time_s) {
            costs_.clear(); // begun anew
        }
        costs_.push_back(cost);
    }
    while (!costs_.empty() && costs_.front().time_s < costs_.back().time_s - plotted_s) {
        costs_.pop_front();
    }
}

void PairPlot::clear() {
    costs_.clear();
    update();
}

void PairPlot::setLimit(double ms) {
    limit_ms_ = ms;
}

void PairPlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::ground);
    double most = limit_ms_;
    for (const PairCost& cost : costs_) {
        most = std::max({most, double(cost.frame_ms[0]), double(cost.frame_ms[1])});
    }
    const double top = most * 1.15;
    const QRectF room = QRectF(rect()).adjusted(0, 4, -54, -2);
    const auto y_of = [&](double ms) { return room.bottom() - ms / top * room.height(); };
    painter.setPen(QPen(theme::close, 1, Qt::DashLine));
    painter.drawLine(QPointF(room.left(), y_of(limit_ms_)), QPointF(room.right(), y_of(limit_ms_)));
    painter.setFont(theme::figure_font(7.5));
    painter.drawText(QPointF(room.right() + 4, y_of(limit_ms_) + 4), tr("%1 ms").arg(limit_ms_, 0, 'f', 1));
    if (costs_.empty()) {
        return;
    }
    const double begin = std::max(costs_.back().time_s - plotted_s, 0.0);
    for (size_t side = 0; side < 2; ++side) {
        // Of the steps that fall on a pixel, the dearest.
        QPainterPath path;
        double x = -1, dearest = 0;
        for (const PairCost& cost : costs_) {
            const double at = std::floor(room.left() + (cost.time_s - begin) / plotted_s * room.width());
            if (at != x && x >= 0) {
                path.elementCount() == 0 ? path.moveTo(x, y_of(dearest)) : path.lineTo(x, y_of(dearest));
                dearest = 0;
            }
            x = at;
            dearest = std::max(dearest, double(cost.frame_ms[side]));
        }
        painter.setPen(side == 0 ? QPen(colour_a, 1.2) : QPen(colour_b, 1.2, Qt::DashLine));
        painter.drawPath(path);
    }
}

CompareWindow::CompareWindow(Workbench& bench, const Camera& camera, QWidget* parent)
    : QDialog(parent), bench_(bench), swap_(new QPushButton(tr("Swap"), this)),
      start_(new QPushButton(tr("From the start"), this)), play_(new QPushButton(tr("Pause"), this)),
      modes_(new ChoiceBox(this)), view_(new CompareView(this)), plot_(new PairPlot(this)),
      table_(new QTreeWidget(this)), figures_(new QLabel(this)), words_(new QLabel(this)),
      pair_(bench.loader().library()) {
    setWindowTitle(tr("A and B"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* first = new QHBoxLayout;
    const QString letters[] = {tr("A"), tr("B")};
    for (int side = 0; side < 2; ++side) {
        versions_[side] = new ChoiceBox(this);
        versions_[side]->setAccessibleName(tr("Version %1").arg(letters[side]));
        versions_[side]->setMinimumContentsLength(18);
        keep_[side] = new QPushButton(tr("Work on %1").arg(letters[side]), this);
        keep_[side]->setToolTip(tr("Makes it the effect, in one edit: dials act on this side from then on."));
        auto* letter = new QLabel(letters[side], this);
        letter->setFont(theme::text_font(11, QFont::DemiBold));
        first->addWidget(letter);
        first->addWidget(versions_[side], 1);
        first->addWidget(keep_[side]);
        if (side == 0) {
            first->addWidget(swap_);
        }
        connect(versions_[side], &QComboBox::activated, this,
                [this, side](int index) { choose(side, index); });
        connect(keep_[side], &QPushButton::clicked, this, [this, side] { keep(side); });
    }
    modes_->addItems({tr("divided by a line"), tr("side by side"), tr("A minus B")});
    modes_->setAccessibleName(tr("How both are shown"));
    modes_->setMinimumContentsLength(15);
    auto* second = new QHBoxLayout;
    second->addWidget(modes_);
    second->addWidget(play_);
    second->addWidget(start_);
    words_->setProperty("ink", "quiet");
    second->addWidget(words_, 1);
    table_->setHeaderLabels({tr("what differs"), tr("A"), tr("B")});
    table_->setRootIsDecorated(false);
    table_->setAccessibleName(tr("What differs"));
    table_->header()->setStretchLastSection(true);
    table_->setColumnWidth(0, 210);
    table_->setColumnWidth(1, 110);
    figures_->setTextFormat(Qt::RichText);
    figures_->setFont(theme::figure_font(8.5));
    figures_->setMinimumWidth(300);
    figures_->setAlignment(Qt::AlignTop);
    auto* below = new QHBoxLayout;
    auto* left = new QVBoxLayout;
    left->addWidget(plot_);
    left->addWidget(figures_);
    left->addStretch(1);
    below->addLayout(left, 1);
    below->addWidget(table_, 1);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(first);
    layout->addLayout(second);
    layout->addWidget(view_, 1);
    layout->addLayout(below);
    table_->setFixedHeight(210);
    for (QPushButton* button : {keep_[0], keep_[1], swap_, start_, play_}) {
        button->setAutoDefault(false);
    }
    resize(1080, 800);

    connect(view_, &CompareView::pictureSizeChanged, &pair_, &Pair::setSize);
    connect(view_, &CompareView::cameraChanged, &pair_, &Pair::setCamera);
    connect(view_, &CompareView::pointed, &pair_, &Pair::setPointer);
    connect(view_, &CompareView::clicked, &pair_, &Pair::click);
    connect(modes_, &QComboBox::activated, this,
            [this](int mode) { view_->setMode(CompareView::Mode(mode)); });
    connect(swap_, &QPushButton::clicked, this, &CompareWindow::swap);
    connect(start_, &QPushButton::clicked, this, [this] {
        pair_.rewind();
        plot_->clear();
    });
    connect(play_, &QPushButton::clicked, this, [this] {
        pair_.setPlaying(!pair_.isPlaying());
        play_->setText(pair_.isPlaying() ? tr("Pause") : tr("Play"));
    });
    connect(&pair_, &Pair::ready, this, &CompareWindow::onShot, Qt::QueuedConnection);
    connect(
        &pair_, &Pair::lacked, this,
        [this](int side, const QString& problem) {
            words_->setText(tr("%1 lacks a file: %2").arg(side == 0 ? tr("A") : tr("B"), problem));
        },
        Qt::QueuedConnection);
    connect(&bench_, &Workbench::effectChanged, this, &CompareWindow::follow);
    connect(&bench_, &Workbench::cameraChanged, view_, &CompareView::setCamera);

    view_->setCamera(camera);
    figures_age_.start();
    fill();
    // What was before the last edit, if there was one; else the same with another seed.
    const bool has_before = offered_.size() > 1 && bench_.document().history().now() > 0;
    const auto other = std::find_if(offered_.begin(), offered_.end(), [&](const Offered& each) {
        return !each.asks_for_file && !each.side.is_now &&
               (has_before || each.side.effect->seed != bench_.effect()->seed);
    });
    set(1, offered_[0].side);
    set(0, other != offered_.end() ? other->side : offered_[0].side);
    fill();
    // Two effects are enough to step.
    was_playing_ = bench_.isPlaying();
    bench_.setPlaying(false);
    pair_.setPlaying(true);
}

void CompareWindow::compareWith(const Effect& other, const QString& name) {
    set(0, {std::make_shared<const Effect>(other), name, bench_.document().folder(), false});
    fill();
    pair_.rewind();
    plot_->clear();
}

CompareWindow::~CompareWindow() {
    if (was_playing_) {
        bench_.setPlaying(true);
    }
}

// The effect now first; then what it was, newest first; then others.
std::vector<CompareWindow::Offered> CompareWindow::offered() const {
    constexpr size_t most_steps = 24;
    const QString folder = bench_.document().folder();
    const EffectPtr now = bench_.effect();
    std::vector<Offered> list;
    list.push_back({tr("the effect now"), {now, tr("now"), folder, true}, false});
    const History& history = bench_.document().history();
    for (size_t i = history.now(); i > 0 && history.now() - i < most_steps; --i) {
        const QString what = tr("before: %1").arg(QString::fromStdString(history.label(i)));
        list.push_back({what, {history.effect(i - 1), what, folder, false}, false});
    }
    const auto changed = [&](const QString& name, const Effect& effect) {
        list.push_back({name, {std::make_shared<const Effect>(effect), name, folder, false}, false});
    };
    changed(tr("seed %1").arg(now->seed + 1), with_seed(*now, now->seed + 1));
    if (const Element* element = bench_.selectedElement(); element != nullptr && !element->muted) {
        changed(tr("without %1").arg(QString::fromStdString(element->name)),
                with_muted(*now, element->id, true));
    }
    for (const Take& take : bench_.takes()) {
        const QString name = QString::fromStdString(take.name);
        list.push_back(
            {tr("take: %1").arg(name), {std::prev(take.effects.end())->second, name, folder, false}, false});
    }
    list.push_back({tr("a file..."), {}, true});
    return list;
}

void CompareWindow::fill() {
    offered_ = offered();
    for (int side = 0; side < 2; ++side) {
        QComboBox* box = versions_[side];
        box->clear();
        int current = -1;
        for (size_t i = 0; i < offered_.size(); ++i) {
            box->addItem(offered_[i].name);
            const Side& each = offered_[i].side;
            const bool same = each.is_now == sides_[side].is_now && each.effect == sides_[side].effect &&
                              !offered_[i].asks_for_file;
            current = same && current < 0 ? int(i) : current;
        }
        if (current < 0 && sides_[side].effect) { // it is offered no more, but runs
            box->addItem(sides_[side].name);
            current = box->count() - 1;
        }
        box->setCurrentIndex(current);
    }
}

void CompareWindow::choose(int side, int index) {
    if (index < 0 || size_t(index) >= offered_.size()) {
        return;
    }
    Offered chosen = offered_[size_t(index)];
    if (chosen.asks_for_file) {
        const QString path = QFileDialog::getOpenFileName(this, tr("Compare with"),
                                                          bench_.document().folder(), tr("Effects (*.json)"));
        const ReadResult read = path.isEmpty() ? ReadResult() : read_effect(path.toStdString());
        if (!read.effect || !read.is_sound()) {
            if (!path.isEmpty()) {
                words_->setText(QString::fromStdString(read.problems.empty() ? path.toStdString()
                                                                             : read.problems.front().text()));
            }
            return fill();
        }
        chosen.side = {std::make_shared<const Effect>(*read.effect), QFileInfo(path).completeBaseName(),
                       QFileInfo(path).absolutePath(), false};
    }
    set(side, chosen.side);
    fill();
    pair_.rewind(); // both from one start
    plot_->clear();
}

void CompareWindow::set(int side, Side version) {
    sides_[side] = std::move(version);
    pair_.setVersion(side, sides_[side].effect, sides_[side].folder);
    view_->setNames(sides_[0].name, sides_[1].name);
    plot_->setLimit(double(bench_.effect()->budget.frame_ms));
    showDifferences();
}

// An edit reaches the side that is the effect now, while it runs.
void CompareWindow::follow() {
    for (int side = 0; side < 2; ++side) {
        if (sides_[side].is_now && sides_[side].effect != bench_.effect()) {
            Side version = sides_[side];
            version.effect = bench_.effect();
            version.folder = bench_.document().folder();
            set(side, std::move(version));
        }
    }
    fill();
}

void CompareWindow::swap() {
    const Side a = sides_[0];
    set(0, sides_[1]);
    set(1, a);
    fill();
    pair_.rewind();
    plot_->clear();
}

void CompareWindow::keep(int side) {
    const Side version = sides_[side];
    if (!version.is_now) {
        const EffectPtr before = bench_.effect();
        for (Side& each : sides_) { // what was the effect now stays what it was
            if (each.is_now) {
                each = {before, tr("before"), each.folder, false};
            }
        }
        sides_[side].is_now = true;
        sides_[side].name = tr("now");
        bench_.edit(*version.effect, tr("work on %1").arg(version.name));
        words_->setText(tr("%1 is the effect now; undo takes it back.").arg(version.name));
    }
    view_->setNames(sides_[0].name, sides_[1].name);
    fill();
}

void CompareWindow::showDifferences() {
    table_->clear();
    if (!sides_[0].effect || !sides_[1].effect) {
        return;
    }
    const std::vector<Difference> all = differences(*sides_[0].effect, *sides_[1].effect);
    for (const Difference& each : all) {
        const QString what = QString::fromStdString(each.what);
        const QString where = QString::fromStdString(each.where);
        table_->addTopLevelItem(
            new QTreeWidgetItem({what.isEmpty() ? where : where + " \u00b7 " + what,
                                 QString::fromStdString(each.a), QString::fromStdString(each.b)}));
    }
    if (all.empty()) {
        table_->addTopLevelItem(new QTreeWidgetItem({tr("nothing: both are the same effect")}));
    }
}

void CompareWindow::onShot() {
    constexpr int figures_ms = 250;
    if (!pair_.takeShot()) {
        return;
    }
    view_->setShot(&pair_.shot());
    plot_->add(pair_.takeCosts());
    if (figures_age_.elapsed() > figures_ms) {
        figures_age_.restart();
        plot_->update();
        showFigures(pair_.shot());
    }
    emit shown();
}

void CompareWindow::showFigures(const PairShot& shot) {
    QString rows;
    const auto row = [&](const QString& name, const QString& a, const QString& b) {
        rows += QStringLiteral("<tr><td>%1&nbsp;&nbsp;&nbsp;</td><td align='right'>%2&nbsp;&nbsp;&nbsp;</td>"
                               "<td align='right' style='color:%4'>%3</td></tr>")
                    .arg(name, a, b, colour_b.name());
    };
    const auto ms = [](double value) { return QString::number(value, 'f', 2); };
    const auto &a = shot.sides[0], &b = shot.sides[1];
    row(tr("at %1 s").arg(shot.time_s, 0, 'f', 2), tr("A"), tr("B"));
    row(tr("frame ms"), ms(a.frame_ms()), ms(b.frame_ms()));
    row(tr("step ms"), ms(a.meters.step_ms), ms(b.meters.step_ms));
    row(tr("picture ms"), ms(a.picture_ms), ms(b.picture_ms));
    row(tr("particles"), theme::short_count(double(a.meters.particles)),
        theme::short_count(double(b.meters.particles)));
    if (a.meters.debris.pieces + b.meters.debris.pieces > 0) {
        row(tr("pieces"), theme::short_count(double(a.meters.debris.pieces)),
            theme::short_count(double(b.meters.debris.pieces)));
    }
    row(tr("particle MB"), QString::number(double(a.bytes) / 1e6, 'f', 1),
        QString::number(double(b.bytes) / 1e6, 'f', 1));
    figures_->setText("<table>" + rows + "</table>");
}

} // namespace ember
