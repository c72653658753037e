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
    button->setFixedSize(33, 28);
    return button;
}

} // namespace

TopBar::TopBar(QMenu* menu, QMenu* speeds, QMenu* machines, const Actions& actions, QWidget* parent)
    : QWidget(parent), name_(new QToolButton(this)), state_(new QLabel(this)),
      play_(transport_button(actions.play, play_sign(), this)), cleanup_(new QToolButton(this)),
      time_(new NumberField(0, 3600, 1.0 / 60, false, tr("a time from 0 to 3600 s"), this)),
      speed_(new QToolButton(this)), machine_(new QToolButton(this)),
      seed_(new NumberField(0, 4294967295.0, 1, true, tr("a whole number from 0 to 4294967295"), this)),
      frame_(new Gauge(tr("Frame"),
                       tr("Time that one step and its picture take now, against the limit (ms)."), this)),
      particles_(new Gauge(tr("Particles"), tr("Particles alive in all sources, against the limit."), this)),
      smoke_(new Gauge(tr("Smoke"), tr("Cells that smoke fills in all volumes, against the limit."), this)),
      memory_(
          new Gauge(tr("Memory"),
                    tr("Memory held for particles, pieces, smoke and pictures, against the limit (MB). What "
                       "was played counts, too: it is kept in at most half of what the limit leaves (16 MB "
                       "at the least)."),
                    this)),
      pieces_(new Gauge(tr("Pieces"), tr("Pieces of breakables in the picture, against the limit."), this)),
      awake_(new Gauge(tr("Awake"), tr("Pieces that move, against the limit: these are what costs."), this)),
      linger_(new Gauge(tr("Linger"),
                        tr("How long the slowest of the last loose pieces stayed, against the limit (s)."),
                        this)) {
    setFixedHeight(42);
    name_->setFont(theme::text_font(11.5, QFont::DemiBold));
    name_->setMenu(menu);
    name_->setPopupMode(QToolButton::InstantPopup);
    name_->setToolTip(tr("The effect. Opens the menu: files, edits, everything the program does (F10)."));
    name_->setAutoRaise(true);
    state_->setProperty("ink", "quiet");
    state_->setFixedWidth(42);
    state_->setFont(theme::text_font(8.5));
    time_->setProperty("title", true);
    time_->setFont(theme::figure_font(12));
    time_->setFixedSize(82, 26);
    time_->setUnit(QStringLiteral("s"));
    time_->setWords([](double time_s) { return QStringLiteral("%1 s").arg(time_s, 0, 'f', 2); });
    time_->setAccessibleName(tr("Time"));
    time_->setToolTip(
        tr("Time of the effect (s). Type another to go there (G). Steps are 1/60 s whatever the "
           "screen does."));
    connect(time_, &NumberField::numberTyped, this, &TopBar::timeTyped);
    seed_->setFixedWidth(70);
    seed_->setAccessibleName(tr("Seed"));
    seed_->setToolTip(
        tr("Seed: the same number gives the same run. Another one starts again from 0 s by itself."));
    auto* seed_label = new QLabel(tr("seed"), this);
    seed_label->setProperty("ink", "quiet");
    seed_label->setToolTip(seed_->toolTip());

    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 0, 14, 0);
    layout->setSpacing(6);
    layout->addWidget(name_);
    layout->addWidget(state_);
    layout->addWidget(transport_button(actions.rewind, rewind_sign(), this));
    layout->addWidget(play_);
    layout->addWidget(transport_button(actions.step, step_sign(), this));
    layout->addWidget(time_);
    speed_->setMenu(speeds);
    speed_->setPopupMode(QToolButton::InstantPopup);
    speed_->setFont(theme::figure_font(9));
    speed_->setFixedWidth(44);
    speed_->setToolTip(tr("How fast time goes: from a twentieth to four times."));
    setSpeed(1);
    layout->addWidget(speed_);
    layout->addSpacing(6);
    layout->addWidget(seed_label);
    layout->addWidget(seed_);
    machine_->setMenu(machines);
    machine_->setPopupMode(QToolButton::InstantPopup);
    machine_->setFont(theme::text_font(8.5));
    machine_->setProperty("ink", "close");
    layout->addWidget(machine_);
    setMachine({}, false);
    cleanup_->setDefaultAction(actions.without_cleanup);
    cleanup_->setFont(theme::text_font(8.5));
    const auto say = [this](bool without) {
        cleanup_->setText(without ? tr("cleanup off") : tr("cleanup on"));
        cleanup_->setMinimumWidth(std::max(cleanup_->sizeHint().width(), 86)); // it does not move the gauges
    };
    say(actions.without_cleanup->isChecked());
    connect(actions.without_cleanup, &QAction::toggled, this, say);
    layout->addWidget(cleanup_);
    layout->addStretch(1);
    layout->addSpacing(6);
    auto* gauges = new QHBoxLayout;
    gauges->setSpacing(10);
    for (Gauge* gauge : {frame_, particles_, smoke_, pieces_, awake_, linger_, memory_}) {
        gauges->addWidget(gauge); // by what their words need
    }
    layout->addLayout(gauges, 20);
    showMatter(false, false);
    connect(seed_, &NumberField::numberTyped, this, [this](double seed) { emit seedTyped(uint32_t(seed)); });
}

void TopBar::setEffect(const Effect& effect, bool saved) {
    const QString name = QString::fromStdString(effect.name);
    name_->setText(name_->fontMetrics().elidedText(name, Qt::ElideRight, 130) + QStringLiteral("  \u25be"));
    state_->setText(saved ? QString() : tr("edited"));
    seed_->setNumber(effect.seed);
    const auto has = [&](auto is_one) {
        return std::any_of(effect.elements.begin(), effect.elements.end(), is_one);
    };
    showMatter(has([](const Element& each) { return std::holds_alternative<Smoke>(each.body); }),
               has([](const Element& each) { return std::holds_alternative<Breakable>(each.body); }));
}

// What is only about smoke, and about pieces.
void TopBar::showMatter(bool smokes, bool breaks) {
    smoke_->setVisible(smokes);
    cleanup_->setVisible(breaks);
    for (Gauge* gauge : {pieces_, awake_, linger_}) {
        gauge->setVisible(breaks);
    }
}

void TopBar::setReadings(const Readings& readings, const SmoothedCosts& costs) {
    const Budget& budget = readings.effect->budget;
    time_->setNumber(readings.time_s);
    const auto figure = [](double value, int decimals) { return QString::number(value, 'f', decimals); };
    frame_->setReading(costs.frame_ms(), budget.frame_ms, figure(costs.frame_ms(), 1),
                       figure(budget.frame_ms, 1) + tr(" ms"));
    const double megabytes = double(readings.bytes) / 1e6;
    memory_->setReading(megabytes, budget.memory_mb, figure(megabytes, 0),
                        figure(budget.memory_mb, 0) + tr(" MB"));
    const auto count = [](Gauge* gauge, double value, int limit) {
        gauge->setReading(value, limit, theme::short_count(value), theme::short_count(limit));
    };
    size_t cells = 0;
    for (const ElementMeter& element : readings.meters.elements) {
        cells += element.smoke.active_cells;
    }
    count(smoke_, double(cells), budget.smoke_cells);
    const DebrisMeter& debris = readings.meters.debris;
    count(particles_, double(readings.meters.particles), budget.particles);
    count(pieces_, double(debris.pieces), budget.pieces);
    count(awake_, double(debris.awake), budget.awake_pieces);
    linger_->setReading(double(debris.linger_longest_s), double(budget.linger_s),
                        figure(double(debris.linger_longest_s), 1),
                        QStringLiteral("%1 s").arg(double(budget.linger_s), 0, 'g', 3));
}

void TopBar::openMenu() {
    name_->showMenu();
}

void TopBar::setSpeed(double speed) {
    speed_->setText(QStringLiteral("\u00d7 %1").arg(speed));
}

void TopBar::setMachine(const QString& name, bool is_predicting) {
    constexpr int widest = 92;
    machine_->setVisible(!name.isEmpty());
    machine_->setText(machine_->fontMetrics().elidedText(tr("for %1").arg(name), Qt::ElideRight, widest));
    machine_->setToolTip(
        is_predicting ? tr("Milliseconds are predicted for %1, from what this machine takes.").arg(name)
                      : tr("This machine is being measured; until then milliseconds are its own."));
    frame_->setName(is_predicting ? tr("Predicted") : tr("Frame"));
}

void TopBar::setPlaying(bool playing) {
    play_->defaultAction()->setIcon(playing ? pause_sign() : play_sign());
}

} // namespace ember
