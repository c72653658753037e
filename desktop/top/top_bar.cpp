#include "desktop/top/top_bar.h"

#include "desktop/controls/number_field.h"
#include "desktop/theme.h"
#include "desktop/top/gauge.h"

#include <QAction>
#include <QHBoxLayout>
#include <QIcon>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QToolButton>

#include <functional>

#include <algorithm>

namespace ember {

namespace {

// Transport signs, drawn in a square of 16.
QIcon sign(const std::function<void(QPainter&)>& draw) {
    QPixmap pixmap(32, 32);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.scale(2, 2);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::text);
    draw(painter);
    painter.end();
    pixmap.setDevicePixelRatio(2);
    return pixmap;
}

QIcon rewind_sign() {
    return sign([](QPainter& p) {
        p.drawRoundedRect(QRectF(2, 3, 2.4, 10), 1, 1);
        p.drawPolygon(QPolygonF({{13, 3}, {13, 13}, {5, 8}}));
    });
}

QIcon play_sign() {
    return sign([](QPainter& p) { p.drawPolygon(QPolygonF({{4, 2.5}, {4, 13.5}, {13.5, 8}})); });
}

QIcon pause_sign() {
    return sign([](QPainter& p) {
        p.drawRoundedRect(QRectF(3.5, 3, 3, 10), 1, 1);
        p.drawRoundedRect(QRectF(9.5, 3, 3, 10), 1, 1);
    });
}

QIcon step_sign() {
    return sign([](QPainter& p) {
        p.drawPolygon(QPolygonF({{3, 3}, {3, 13}, {10, 8}}));
        p.drawRoundedRect(QRectF(11.2, 3, 2.4, 10), 1, 1);
    });
}

QToolButton* transport_button(QAction* action, const QIcon& icon, QWidget* parent) {
    action->setIcon(icon);
    auto* button = new QToolButton(parent);
    button->setDefaultAction(action);
    button->setIconSize({16, 16});
    button->setFixedSize(38, 28);
    return button;
}

} // namespace

TopBar::TopBar(QMenu* menu, const Actions& actions, QWidget* parent)
    : QWidget(parent), name_(new QToolButton(this)), state_(new QLabel(this)),
      play_(transport_button(actions.play, play_sign(), this)), cleanup_(new QToolButton(this)),
      time_(new QLabel(this)),
      seed_(new NumberField(0, 4294967295.0, 1, true, tr("a whole number from 0 to 4294967295"), this)),
      frame_(new Gauge(tr("Frame"),
                       tr("Time that one step and its picture take now, against the limit (ms)."), this)),
      particles_(new Gauge(tr("Particles"), tr("Particles alive in all sources, against the limit."), this)),
      memory_(new Gauge(tr("Memory"),
                        tr("Memory held for particles, frames and pictures, against the limit (MB)."), this)),
      pieces_(new Gauge(tr("Pieces"), tr("Pieces of breakables in the picture, against the limit."), this)),
      awake_(new Gauge(tr("Awake"), tr("Pieces that move, against the limit: these are what costs."), this)),
      linger_(new Gauge(tr("Linger"),
                        tr("How long the slowest of the last loose pieces stayed, against the limit (s)."),
                        this)) {
    setFixedHeight(48);
    name_->setFont(theme::text_font(11.5, QFont::DemiBold));
    name_->setMenu(menu);
    name_->setPopupMode(QToolButton::InstantPopup);
    name_->setToolTip(tr("The effect. Opens the menu: files, edits, everything the program does (F10)."));
    name_->setAutoRaise(true);
    state_->setProperty("ink", "quiet");
    state_->setFixedWidth(52);
    time_->setFont(theme::figure_font(12));
    time_->setFixedWidth(92);
    time_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    time_->setToolTip(tr("Time of the effect (s). Steps are 1/60 s whatever the screen does."));
    seed_->setFixedWidth(92);
    seed_->setAccessibleName(tr("Seed"));
    seed_->setToolTip(
        tr("Seed: the same number gives the same run. Another one starts again from 0 s by itself."));
    auto* seed_label = new QLabel(tr("seed"), this);
    seed_label->setProperty("ink", "quiet");
    seed_label->setToolTip(seed_->toolTip());

    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 0, 14, 0);
    layout->setSpacing(8);
    layout->addWidget(name_);
    layout->addWidget(state_);
    layout->addStretch(1);
    layout->addWidget(transport_button(actions.rewind, rewind_sign(), this));
    layout->addWidget(play_);
    layout->addWidget(transport_button(actions.step, step_sign(), this));
    layout->addWidget(time_);
    layout->addSpacing(10);
    layout->addWidget(seed_label);
    layout->addWidget(seed_);
    layout->addStretch(1);
    cleanup_->setDefaultAction(actions.without_cleanup);
    cleanup_->setFixedWidth(92);
    const auto say = [this](bool without) {
        cleanup_->setText(without ? tr("cleanup off") : tr("cleanup on"));
    };
    say(actions.without_cleanup->isChecked());
    connect(actions.without_cleanup, &QAction::toggled, this, say);
    layout->addWidget(cleanup_);
    gauges_ = new QGridLayout;
    gauges_->setHorizontalSpacing(14);
    gauges_->setVerticalSpacing(2);
    layout->addLayout(gauges_);
    placeGauges(false);
    connect(seed_, &NumberField::numberTyped, this, [this](double seed) { emit seedTyped(uint32_t(seed)); });
}

void TopBar::setEffect(const Effect& effect, bool saved) {
    const QString name = QString::fromStdString(effect.name);
    name_->setText(name_->fontMetrics().elidedText(name, Qt::ElideRight, 170) + QStringLiteral("  \u25be"));
    state_->setText(saved ? QString() : tr("edited"));
    seed_->setNumber(effect.seed);
    const bool breaks = std::any_of(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
        return std::holds_alternative<Breakable>(each.body);
    });
    if (breaks == pieces_->isHidden()) {
        placeGauges(breaks);
    }
}

// One row of three, or, where something breaks, two.
void TopBar::placeGauges(bool breaks) {
    cleanup_->setVisible(breaks);
    const std::array gauges = {frame_, particles_, memory_, pieces_, awake_, linger_};
    for (size_t i = 0; i < gauges.size(); ++i) {
        gauges_->addWidget(gauges[i], int(i / 3), int(i % 3));
        gauges[i]->setCompact(breaks);
        gauges[i]->setVisible(breaks || i < 3);
    }
}

void TopBar::setReadings(const Readings& readings, const SmoothedCosts& costs) {
    const Budget& budget = readings.effect->budget;
    time_->setText(QStringLiteral("%1 s").arg(readings.time_s, 0, 'f', 2));
    frame_->setReading(
        costs.frame_ms(), budget.frame_ms,
        QStringLiteral("%1 / %2 ms").arg(costs.frame_ms(), 0, 'f', 1).arg(budget.frame_ms, 0, 'f', 1));
    particles_->setReading(double(readings.meters.particles), budget.particles,
                           theme::short_count(double(readings.meters.particles)) + " / " +
                               theme::short_count(budget.particles));
    const double megabytes = double(readings.bytes) / 1e6;
    memory_->setReading(
        megabytes, budget.memory_mb,
        QStringLiteral("%1 / %2 MB").arg(megabytes, 0, 'f', 1).arg(budget.memory_mb, 0, 'f', 0));
    const DebrisMeter& debris = readings.meters.debris;
    const auto pieces = [](double count, int limit) {
        return theme::short_count(count) + " / " + theme::short_count(limit);
    };
    pieces_->setReading(double(debris.pieces), budget.pieces, pieces(double(debris.pieces), budget.pieces));
    awake_->setReading(double(debris.awake), budget.awake_pieces,
                       pieces(double(debris.awake), budget.awake_pieces));
    linger_->setReading(double(debris.linger_longest_s), double(budget.linger_s),
                        QStringLiteral("%1 / %2 s")
                            .arg(double(debris.linger_longest_s), 0, 'f', 1)
                            .arg(double(budget.linger_s), 0, 'g', 3));
}

void TopBar::openMenu() {
    name_->showMenu();
}

void TopBar::setPlaying(bool playing) {
    play_->defaultAction()->setIcon(playing ? pause_sign() : play_sign());
}

} // namespace ember
