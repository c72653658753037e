#include "desktop/dialogs/measuring_sheet.h"

#include "desktop/controls/number_field.h"
#include "desktop/workbench/workbench.h"
#include "render/moment.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>

namespace ember {

namespace {

constexpr double longest_s = 600;

} // namespace

MeasuringSheet::MeasuringSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span,
                               const QString& start_words, QWidget* parent)
    : QDialog(parent), bench_(bench), pixels_(pixels), progress_(new QProgressBar(this)),
      words_(new QLabel(this)), camera_(camera), start_words_(start_words),
      from_(new NumberField(0, longest_s, 0.5, false, tr("A time from 0 to %1 s.").arg(longest_s), this)),
      to_(new NumberField(0.1, longest_s, 0.5, false, tr("A time from 0.1 to %1 s.").arg(longest_s), this)),
      start_(new QPushButton(start_words, this)) {
    setAttribute(Qt::WA_DeleteOnClose);
    from_->setNumber(span.from_s);
    from_->setAccessibleName(tr("From"));
    to_->setNumber(span.to_s);
    to_->setAccessibleName(tr("To"));
    start_->setAutoDefault(false);
    words_->setWordWrap(true);
    words_->setMinimumHeight(34);
    words_->setProperty("ink", "quiet");
    progress_->setTextVisible(false);
    QSizePolicy stays = progress_->sizePolicy();
    stays.setRetainSizeWhenHidden(true); // the fields stay where they are
    progress_->setSizePolicy(stays);
    connect(start_, &QPushButton::clicked, this,
            [this] { beside_.isRunning() ? beside_.cancel() : begin(); });
    connect(&beside_, &Beside::finished, this, [this] { showState(); });
}

void MeasuringSheet::endWork() {
    beside_.disconnect(this);
    beside_.cancel();
}

QLabel* MeasuringSheet::quiet(const QString& text) {
    auto* label = new QLabel(text, this);
    label->setProperty("ink", "quiet");
    return label;
}

QHBoxLayout* MeasuringSheet::firstLine(const QString& before, NumberField* own, const QString& after) {
    auto* line = new QHBoxLayout;
    const std::pair<QString, NumberField*> parts[] = {{tr("From"), from_}, {tr("to"), to_}, {before, own}};
    for (const auto& [words, field] : parts) {
        field->setFixedWidth(52);
        line->addWidget(quiet(words));
        line->addWidget(field);
    }
    line->addWidget(quiet(after));
    line->addWidget(start_);
    line->addWidget(progress_, 1);
    return line;
}

std::optional<QString> MeasuringSheet::refusalOf(const Span& span) const {
    const auto length = double(bench_.effect()->stage.length);
    if (span.to_s <= span.from_s) {
        return tr("Not begun: the span ends before it begins.");
    }
    if (length > 0 && span.to_s > length) {
        return tr("Not begun: the effect ends at %1 s.").arg(length);
    }
    return std::nullopt;
}

Span MeasuringSheet::span() const {
    return {from_->number(), to_->number()};
}

std::function<DrawMoment()> MeasuringSheet::painter() const {
    return [camera = camera_, pixels = pixels_] {
        return moment_painter(pixels.width(), pixels.height(), camera);
    };
}

void MeasuringSheet::showRunning() {
    start_->setText(beside_.isRunning() ? tr("Stop") : start_words_);
    progress_->setVisible(beside_.isRunning());
}

} // namespace ember
