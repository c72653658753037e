#include "desktop/dialogs/fit_sheet.h"

#include "core/effect/edit.h"
#include "desktop/controls/choice_box.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/pictures.h"
#include "desktop/theme.h"
#include "desktop/workbench/workbench.h"
#include "render/moment.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include <cmath>

namespace ember {

namespace {

constexpr QSize shown_size(300, 188);

QString figure_of(double value) {
    return value >= 1000 ? theme::short_count(value) : QString::number(value, 'g', 4);
}

} // namespace

FitSheet::FitSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent)
    : MeasuringSheet(bench, camera, pixels, span, tr("Find values"), parent),
      margin_(new NumberField(0, 90, 1, false, tr("0 to 90 %."), this)),
      makes_up_(new QCheckBox(tr("What is left of a source may be drawn stronger or larger"), this)),
      take_(new QPushButton(tr("Take them"), this)), figures_(new QLabel(this)) {
    setWindowTitle(tr("Fit to the budget"));
    margin_->setNumber(5);
    margin_->setAccessibleName(tr("Margin"));
    margin_->setToolTip(tr("How much of each limit stays free (%)."));
    startButton()->setToolTip(
        tr("The span is run again and again from the effect's start, until values are found that "
           "keep within all limits of the budget with the least change of the picture."));
    makes_up_->setChecked(true);
    makes_up_->setToolTip(
        tr("Glow (of what adds) or opacity of its look, or the size of its particles goes up, where "
           "that brings the picture closer to what it was."));
    take_->setToolTip(tr("Makes them the effect's, in one edit."));
    take_->setAutoDefault(false);

    auto* numbers = new QWidget;
    auto* grid = new QGridLayout(numbers);
    grid->setColumnStretch(0, 1);
    const QString headings[] = {tr("what may change"), tr("now"), tr("as far as"), tr("how dear")};
    for (int i = 0; i < 4; ++i) {
        grid->addWidget(quiet(headings[i]), 0, i);
    }
    for (const FitNumber& number : numbers_to_fit(*bench_.effect())) {
        addLine(number, grid);
    }
    grid->setRowStretch(grid->rowCount(), 1);
    auto* scroll = new QScrollArea(this);
    scroll->setWidget(numbers);
    scroll->setWidgetResizable(true);
    scroll->setMinimumWidth(430);

    auto* side = new QVBoxLayout;
    const QString captions[] = {tr("before"), tr("after")};
    for (int i = 0; i < 2; ++i) {
        captions_[i] = quiet(captions[i]);
        pictures_[i] = new QLabel(this);
        pictures_[i]->setFixedSize(shown_size);
        side->addWidget(captions_[i]);
        side->addWidget(pictures_[i]);
    }
    figures_->setFont(theme::figure_font(8.5));
    figures_->setTextFormat(Qt::RichText);
    side->addWidget(figures_);
    side->addStretch(1);
    auto* middle = new QHBoxLayout;
    middle->addWidget(scroll, 1);
    middle->addLayout(side);
    auto* last = new QHBoxLayout;
    last->addWidget(words_, 1);
    last->addWidget(take_);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(firstLine(tr("s, with"), margin_, tr("% of each limit free")));
    layout->addLayout(middle, 1);
    layout->addWidget(makes_up_);
    layout->addLayout(last);
    resize(820, 680);

    connect(take_, &QPushButton::clicked, this, &FitSheet::take);
    connect(&bench_, &Workbench::effectChanged, this, &FitSheet::showState);
    showState();
}

FitSheet::~FitSheet() {
    endWork();
}

void FitSheet::addLine(const FitNumber& number, QGridLayout* grid) {
    const Holder holder = *find_holder(*bench_.effect(), number.holder);
    const Parameter& parameter = *holder.find(number.parameter);
    const Value value = parameter.get(holder.object);
    const bool is_whole = parameter.kind == ParameterKind::count;
    const double now = is_whole ? std::get<int>(value) : double(std::get<float>(value));
    const QString name = QString::fromStdString(holder.name) + ": " + qtext(parameter.label);
    Line line{number, new QCheckBox(name),
              new NumberField(parameter.hard_low, parameter.hard_high, 1, is_whole,
                              QString::fromStdString(expectation_of(parameter))),
              new ChoiceBox(this)};
    line.takes_part->setChecked(true);
    line.takes_part->setToolTip(qtext(parameter.help));
    line.end->setDecimals(2);
    line.end->setNumber(double(number.end));
    line.end->setFixedWidth(64);
    line.end->setAccessibleName(tr("As far as, %1").arg(name));
    line.dearness->addItems({tr("as others"), tr("dear"), tr("very dear")});
    line.dearness->setAccessibleName(tr("How dear, %1").arg(name));
    line.dearness->setToolTip(
        tr("What is dear is touched as if it changed the picture three times as much, what is "
           "very dear ten times."));
    const int row = int(lines_.size()) + 1;
    grid->addWidget(line.takes_part, row, 0);
    auto* figure = new QLabel(figure_of(now));
    figure->setFont(theme::figure_font(8.5));
    grid->addWidget(figure, row, 1);
    grid->addWidget(line.end, row, 2);
    grid->addWidget(line.dearness, row, 3);
    lines_.push_back(line);
}

void FitSheet::begin() {
    constexpr float dearnesses[] = {1, 3, 10};
    if (const auto refused = refusalOf(span())) {
        return words_->setText(*refused);
    }
    const auto load = [library = &bench_.loader().library(),
                       folder = bench_.document().folder().toStdString()](const Effect& effect) {
        return library->load(effect, folder).assets;
    };
    FitOrder order{bench_.effect(),       load, span(), painter(), {}, margin_->number() / 100,
                   makes_up_->isChecked()};
    for (const Line& line : lines_) {
        FitNumber number = line.number;
        number.end = float(line.end->number());
        number.dearness = dearnesses[line.dearness->currentIndex()];
        if (!line.takes_part->isChecked()) {
            continue;
        }
        if (const auto refused = refusal_of(*order.effect, number)) {
            return words_->setText(tr("Not begun: %1").arg(QString::fromStdString(*refused)));
        }
        order.numbers.push_back(number);
    }
    if (order.numbers.empty()) {
        return words_->setText(tr("Not begun: no number may change."));
    }
    fitted_ = order.effect;
    result_.reset();
    const RunTrials run = beside_.inTurns(bench_.player().turns());
    beside_.start([this, order, run] {
        auto found = fit(order, run, [this](int made, int most) {
            beside_.tell([this, made, most] {
                progress_->setRange(0, most);
                progress_->setValue(made);
            });
        });
        if (found) {
            beside_.tell([this, result = std::move(*found)] { receive(result); });
        }
    });
    progress_->setRange(0, 0);
    showState();
}

void FitSheet::receive(FitResult result) {
    result_ = std::move(result);
    const SmallPicture* small[] = {&result_->picture_before, &result_->picture_after};
    for (int i = 0; i < 2; ++i) {
        pictures_[i]->setPixmap(QPixmap::fromImage(
            image_of(*small[i]).scaled(shown_size, Qt::KeepAspectRatio, Qt::SmoothTransformation)));
    }
    const std::vector<LimitReading> before = readings_of(*fitted_, result_->before),
                                    after = readings_of(*fitted_, result_->after);
    QString rows;
    const auto cell = [](const QString& text) {
        return QStringLiteral("<td align='right'>%1</td>").arg(text);
    };
    for (size_t i = 0; i < after.size(); ++i) {
        const bool is_over = after[i].share() > 1;
        rows +=
            QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td>").arg(tr(after[i].name.c_str())) +
            cell(figure_of(before[i].measured)) + cell("&nbsp;\u2192&nbsp;") +
            cell(QStringLiteral("<span style='color:%1'>%2</span>")
                     .arg((is_over ? theme::over : theme::within).name(), figure_of(after[i].measured))) +
            cell(tr("&nbsp;of %1 %2").arg(figure_of(after[i].limit), QString::fromStdString(after[i].unit))) +
            "</tr>";
    }
    for (const FitResult::Change& change : result_->changes) {
        rows += QStringLiteral("<tr><td>%1&nbsp;&nbsp;</td>")
                    .arg(QString::fromStdString(change.words).toHtmlEscaped()) +
                cell(figure_of(double(change.from))) + cell("&nbsp;\u2192&nbsp;") +
                cell(figure_of(double(change.to))) + "<td></td></tr>";
    }
    figures_->setText("<table>" + rows + "</table>");
    showState();
}

void FitSheet::showState() {
    showRunning();
    const bool is_there = result_.has_value() && !isRunning();
    for (int i = 0; i < 2; ++i) {
        captions_[i]->setVisible(result_.has_value());
        pictures_[i]->setVisible(result_.has_value());
    }
    figures_->setVisible(result_.has_value());
    take_->setEnabled(is_there && !result_->changes.empty() && bench_.effect() == fitted_);
    if (is_there) {
        words_->setText(
            tr("%1. %2 % of the picture stays (%3 runs).%4")
                .arg(QString::fromStdString(result_->words))
                .arg(std::lround(100 * result_->kept))
                .arg(result_->runs)
                .arg(bench_.effect() == fitted_ ? QString() : tr(" The effect has been edited since.")));
    } else if (isRunning()) {
        words_->setText(tr("Runs the span with other values; the effect that plays is not touched."));
    } else if (lines_.empty()) {
        words_->setText(tr("Nothing here usually makes an effect cheaper: no births, smoke or pieces."));
    } else {
        words_->setText(tr("Choose what may change. Limits are those of the budget."));
    }
}

void FitSheet::take() {
    if (result_ && bench_.effect() == fitted_) {
        bench_.edit(result_->effect, tr("fit to the budget"));
        words_->setText(tr("Taken: undo takes it back."));
    }
}

} // namespace ember
