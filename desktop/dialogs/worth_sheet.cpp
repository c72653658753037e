#include "desktop/dialogs/worth_sheet.h"

#include "core/effect/edit.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/pictures.h"
#include "desktop/theme.h"
#include "desktop/workbench/workbench.h"
#include "render/moment.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr int line_height = 40, heading_height = 24, switch_size = 18;
constexpr QSize picture_size(208, 130);

// One run alone says nothing about how far runs lie apart.
QString saved_words(const Worth& worth) {
    const QString saved = QString::number(worth.saved_ms(), 'f', 2);
    return worth.runs > 1 ? QStringLiteral("%1 \u00b1 %2").arg(saved).arg(worth.spread_ms, 0, 'f', 2) : saved;
}

} // namespace

WorthList::WorthList(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("What each thing is worth"));
    setMinimumWidth(520);
}

void WorthList::setLines(std::vector<Line> lines, double limit_ms) {
    lines_ = std::move(lines);
    limit_ms_ = limit_ms;
    current_ = std::clamp(current_, 0, std::max(int(lines_.size()) - 1, 0));
    setFixedHeight(sizeHint().height());
    update();
}

void WorthList::choose(int index) {
    if (index >= 0 && index < int(lines_.size())) {
        current_ = index;
        update();
        emit chosen(index);
    }
}

QSize WorthList::sizeHint() const {
    return {520, heading_height + int(lines_.size()) * line_height};
}

QRect WorthList::rectOf(int index) const {
    return {0, heading_height + index * line_height, width(), line_height};
}

QRect WorthList::switchOf(int index) const {
    const QRect line = rectOf(index);
    return {line.right() - switch_size - 6, line.top() + (line_height - switch_size) / 2, switch_size,
            switch_size};
}

void WorthList::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::quiet);
    const QRect heading(8, 0, width() - switch_size - 24, heading_height);
    painter.drawText(heading, Qt::AlignVCenter | Qt::AlignLeft, tr("without"));
    painter.drawText(heading.adjusted(0, 0, -112, 0), Qt::AlignVCenter | Qt::AlignRight,
                     tr("saves ms of a frame"));
    painter.drawText(heading, Qt::AlignVCenter | Qt::AlignRight, tr("picture changes"));
    for (int i = 0; i < int(lines_.size()); ++i) {
        if (event->rect().intersects(rectOf(i))) {
            paintLine(painter, i);
        }
    }
}

void WorthList::paintLine(QPainter& painter, int index) const {
    const auto& [worth, is_off] = lines_[size_t(index)];
    const QRect line = rectOf(index);
    if (index == current_) {
        painter.fillRect(line, theme::raised);
        painter.fillRect(QRect(line.left(), line.top(), 2, line.height()), theme::text);
    }
    const int right = line.right() - switch_size - 16;
    const QRect top(8, line.top() + 4, right - 8, 17);
    painter.setFont(theme::figure_font(8.5));
    painter.setPen(is_off ? theme::quiet : theme::text);
    painter.drawText(top, Qt::AlignRight | Qt::AlignVCenter, tr("%1 %").arg(100 * worth.change, 0, 'f', 1));
    painter.setPen(is_off ? theme::quiet : theme::cost);
    painter.drawText(top.adjusted(0, 0, -112, 0), Qt::AlignRight | Qt::AlignVCenter, saved_words(worth));
    painter.setFont(theme::text_font(9.5, QFont::Medium));
    painter.setPen(is_off ? theme::quiet : theme::text);
    painter.drawText(top, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(QString::fromStdString(worth.words), Qt::ElideRight,
                                                      top.width() - 226));
    // How much of the frame, and how much of the picture.
    const auto bar = [&](int left, int width, double share, const QColor& colour) {
        const QRectF whole(left, line.top() + 25, width, 4);
        painter.fillRect(whole, theme::ground);
        painter.fillRect(QRectF(whole.left(), whole.top(), whole.width() * std::clamp(share, 0.0, 1.0), 4),
                         colour);
    };
    bar(right - 212, 100, worth.saved_ms() / limit_ms_, theme::cost);
    bar(right - 90, 90, worth.change, theme::text);
    QStringList less;
    const auto counted = [&](long count, const QString& text) {
        if (count != 0) {
            less << (count > 0 ? QStringLiteral("\u2212") : QStringLiteral("+")) +
                        theme::short_count(double(std::abs(count))) + " " + text;
        }
    };
    less << tr("step %1, picture %2")
                .arg(worth.saved_step_ms, 0, 'f', 2)
                .arg(worth.saved_picture_ms, 0, 'f', 2);
    counted(worth.particles, tr("particles"));
    counted(worth.pieces, tr("pieces"));
    if (worth.memory_mb >= 0.1) {
        less << tr("\u2212%1 MB").arg(worth.memory_mb, 0, 'f', 1);
    }
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::quiet);
    const int room = right - 220 - 8;
    painter.drawText(QRect(8, line.top() + 20, room, 15), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(is_off ? tr("switched off") : less.join(", "),
                                                      Qt::ElideRight, room));
    theme::paint_mute(painter, switchOf(index), is_off);
}

void WorthList::mousePressEvent(QMouseEvent* event) {
    for (int i = 0; i < int(lines_.size()); ++i) {
        if (rectOf(i).contains(event->position().toPoint())) {
            choose(i);
            if (switchOf(i).contains(event->position().toPoint())) {
                emit switched(i);
            }
            return;
        }
    }
}

void WorthList::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Up:
        return choose(current_ - 1);
    case Qt::Key_Down:
        return choose(current_ + 1);
    case Qt::Key_Space:
    case Qt::Key_Return:
        return current_ < int(lines_.size()) ? emit switched(current_) : void();
    default:
        QWidget::keyPressEvent(event);
    }
}

WorthSheet::WorthSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span,
                       QWidget* parent)
    : MeasuringSheet(bench, camera, pixels, span, tr("Measure"), parent),
      rounds_(new NumberField(1, 20, 1, true, tr("1 to 20 rounds."), this)), list_(new WorthList) {
    setWindowTitle(tr("What is each thing worth?"));
    rounds_->setNumber(2);
    rounds_->setAccessibleName(tr("Rounds"));
    rounds_->setToolTip(
        tr("How often each thing is switched off, all in turn. More rounds tell finer differences."));
    startButton()->setToolTip(
        tr("The same span with the same seed is run with each thing switched off in turn, from "
           "the effect's start. Each step waits for its turn with the effect that plays."));
    progress_->setRange(0, 1000);
    auto* scroll = new QScrollArea(this);
    scroll->setWidget(list_);
    scroll->setWidgetResizable(true);
    auto* side = new QVBoxLayout;
    const QString captions[] = {tr("with it"), tr("without it"), tr("where they differ, four times over")};
    for (int i = 0; i < 3; ++i) {
        captions_[i] = quiet(captions[i]);
        pictures_[i] = new QLabel(this);
        pictures_[i]->setFixedSize(picture_size);
        side->addWidget(captions_[i]);
        side->addWidget(pictures_[i]);
    }
    side->addStretch(1);
    auto* middle = new QHBoxLayout;
    middle->addWidget(scroll, 1);
    middle->addLayout(side);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(firstLine(tr("s, in"), rounds_, tr("rounds")));
    layout->addLayout(middle, 1);
    layout->addWidget(words_);
    resize(820, 620);

    connect(list_, &WorthList::chosen, this, &WorthSheet::showPictures);
    connect(list_, &WorthList::switched, this, &WorthSheet::doWithout);
    connect(&bench_, &Workbench::effectChanged, this, &WorthSheet::showLines);
    showState();
}

WorthSheet::~WorthSheet() {
    endWork();
}

void WorthSheet::begin() {
    if (const auto refused = refusalOf(span())) {
        return words_->setText(*refused);
    }
    if (switches_of(*bench_.effect()).empty()) {
        return words_->setText(tr("Not begun: there is nothing to switch off."));
    }
    measured_ = bench_.effect();
    table_ = {};
    progress_->setValue(0);
    const WorthOrder order{measured_, bench_.assets(), span(), painter(), int(rounds_->number())};
    const RunTrials run = beside_.inTurns(bench_.player().turns());
    beside_.start([this, order, run] {
        worths(order, run,
               [this](const WorthTable& known) { beside_.tell([this, known] { receive(known); }); });
    });
    list_->setFocus();
    showLines();
    showState();
}

void WorthSheet::receive(WorthTable table) {
    table_ = std::move(table);
    progress_->setValue(int(table_.share_done * 1000));
    showLines();
    showState();
}

void WorthSheet::showLines() {
    std::vector<WorthList::Line> lines;
    for (const Worth& worth : table_.rows) {
        const auto less = without(*bench_.effect(), worth.off);
        lines.push_back({worth, !less || *less == *bench_.effect()});
    }
    list_->setLines(std::move(lines), double(bench_.effect()->budget.frame_ms));
    showPictures();
}

void WorthSheet::showPictures() {
    const bool has_one = list_->current() < int(list_->lines().size());
    for (int i = 0; i < 3; ++i) {
        captions_[i]->setVisible(has_one);
        pictures_[i]->setVisible(has_one);
    }
    if (!has_one) {
        return;
    }
    const Worth& worth = list_->lines()[size_t(list_->current())].worth;
    const QImage with = image_of(worth.with), less = image_of(worth.without);
    const auto fitted = [](const QImage& image) {
        return QPixmap::fromImage(image.scaled(picture_size, Qt::KeepAspectRatio, Qt::SmoothTransformation));
    };
    if (!with.isNull() && !less.isNull()) {
        pictures_[0]->setPixmap(fitted(with));
        pictures_[1]->setPixmap(fitted(less));
        pictures_[2]->setPixmap(fitted(difference_of(with, less)));
    }
}

void WorthSheet::showState() {
    showRunning();
    if (table_.rows.empty()) {
        words_->setText(
            isRunning() ? tr("Measuring the whole first.")
                        : tr("Each thing is switched off in turn, and the same seconds are run again: what "
                             "that saves, and how much of what the effect shows is another picture."));
        return;
    }
    const QString old = bench_.effect() == measured_ ? QString() : tr(" Measured before the last edit.");
    words_->setText(
        tr("All of it: %1 ms a step, %2 ms a picture of %3 x %4. What costs most for what is seen of it "
           "stands on top. The picture's change: of what the effect adds to the bare stage, seen from "
           "afar.%5")
            .arg(table_.whole.median_ms, 0, 'f', 2)
            .arg(table_.whole.picture_ms, 0, 'f', 2)
            .arg(pixels_.width())
            .arg(pixels_.height())
            .arg(old));
}

// Elements are muted and sounded again; what else is off is undone by undo.
void WorthSheet::doWithout(int index) {
    const Worth worth = list_->lines()[size_t(index)].worth;
    const QString name = QString::fromStdString(worth.words);
    if (worth.off.what == Switch::What::element) {
        const Element* element = find_element(*bench_.effect(), worth.off.holder);
        if (element != nullptr) {
            const bool muted = !element->muted;
            bench_.edit(with_muted(*bench_.effect(), worth.off.holder, muted),
                        muted ? tr("mute %1").arg(name) : tr("unmute %1").arg(name));
        }
    } else if (const auto less = without(*bench_.effect(), worth.off); less && *less != *bench_.effect()) {
        bench_.edit(*less, tr("do without %1").arg(name));
    }
}

} // namespace ember
