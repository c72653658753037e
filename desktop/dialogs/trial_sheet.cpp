#include "desktop/dialogs/trial_sheet.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "desktop/controls/choice_box.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"
#include "desktop/workbench/workbench.h"

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

constexpr int words_height = 38, gap = 10;
constexpr int most_tries = 100;
constexpr double latest_s = 600;

QString holder_key(const std::string& holder, const std::string& parameter, int part) {
    return QString::fromStdString(holder) + "\t" + QString::fromStdString(parameter) + "\t" +
           QString::number(part);
}

} // namespace

TrialGrid::TrialGrid(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Tries"));
}

void TrialGrid::setCells(std::vector<Cell> cells, int columns) {
    cells_ = std::move(cells);
    columns_ = std::max(columns, 1);
    current_ = 0;
    setFixedSize(sizeHint());
    update();
}

void TrialGrid::setCell(int index, Cell cell) {
    cells_[size_t(index)] = std::move(cell);
    update(rectOf(index));
}

void TrialGrid::choose(int index) {
    const int kept = std::clamp(index, 0, std::max(int(cells_.size()) - 1, 0));
    if (kept != current_) {
        current_ = kept;
        update();
        emit chosen(kept);
    }
}

QRect TrialGrid::rectOf(int index) const {
    const QSize cell(picture_size.width() + gap, picture_size.height() + words_height + gap);
    return {QPoint(index % columns_ * cell.width(), index / columns_ * cell.height()),
            QSize(picture_size.width(), picture_size.height() + words_height)};
}

QSize TrialGrid::sizeHint() const {
    const int rows = (int(cells_.size()) + columns_ - 1) / columns_;
    return {columns_ * (picture_size.width() + gap), rows * (picture_size.height() + words_height + gap)};
}

void TrialGrid::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    for (int i = 0; i < int(cells_.size()); ++i) {
        const QRect cell = rectOf(i);
        if (!event->rect().intersects(cell)) {
            continue;
        }
        const QRect picture(cell.topLeft(), picture_size);
        painter.fillRect(picture, theme::ground);
        if (cells_[size_t(i)].picture.isNull()) {
            painter.setFont(theme::text_font(8.5));
            painter.setPen(theme::quiet);
            painter.drawText(picture, Qt::AlignCenter, tr("waits"));
        } else {
            painter.drawImage(picture, cells_[size_t(i)].picture);
        }
        const bool is_current = i == current_;
        if (is_current) {
            painter.setPen(QPen(theme::ember, 2));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(picture.adjusted(1, 1, -1, -1));
        }
        painter.setFont(theme::text_font(9, QFont::Medium));
        painter.setPen(is_current ? theme::ember : theme::text);
        const QRect words(cell.left(), picture.bottom() + 3, cell.width(), words_height);
        painter.drawText(
            words, Qt::AlignTop | Qt::AlignLeft,
            painter.fontMetrics().elidedText(cells_[size_t(i)].title, Qt::ElideRight, words.width()));
        painter.setFont(theme::figure_font(8));
        painter.setPen(theme::cost);
        painter.drawText(
            words.adjusted(0, 17, 0, 0), Qt::AlignTop | Qt::AlignLeft,
            painter.fontMetrics().elidedText(cells_[size_t(i)].figures, Qt::ElideRight, words.width()));
    }
}

int TrialGrid::cellAt(QPoint place) const {
    for (int i = 0; i < int(cells_.size()); ++i) {
        if (rectOf(i).contains(place)) {
            return i;
        }
    }
    return -1;
}

void TrialGrid::mousePressEvent(QMouseEvent* event) {
    if (const int cell = cellAt(event->position().toPoint()); cell >= 0) {
        choose(cell);
    }
}

void TrialGrid::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const int cell = cellAt(event->position().toPoint()); cell >= 0) {
        emit taken(cell);
    }
}

void TrialGrid::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Left:
        return choose(current_ - 1);
    case Qt::Key_Right:
        return choose(current_ + 1);
    case Qt::Key_Up:
        return choose(std::max(current_ - columns_, current_ % columns_));
    case Qt::Key_Down:
        return current_ + columns_ < int(cells_.size()) ? choose(current_ + columns_) : void();
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return emit taken(current_);
    default:
        QWidget::keyPressEvent(event);
    }
}

TrialSheet::TrialSheet(Workbench& bench, const Camera& camera, double at_s, QWidget* parent)
    : QDialog(parent), bench_(bench), camera_(camera), kinds_(new ChoiceBox(this)), seeds_(new QWidget(this)),
      seed_count_(new NumberField(2, most_tries, 1, true, tr("2 to %1 seeds.").arg(most_tries), this)),
      at_(new NumberField(0, latest_s, 0.5, false, tr("A time from 0 to %1 s.").arg(latest_s), this)),
      try_(new QPushButton(tr("Try"), this)), take_(new QPushButton(tr("Take it"), this)),
      progress_(new QProgressBar(this)), words_(new QLabel(this)), grid_(new TrialGrid) {
    setWindowTitle(tr("Try side by side"));
    setAttribute(Qt::WA_DeleteOnClose);
    kinds_->addItems({tr("seeds"), tr("one number"), tr("two numbers")});
    kinds_->setAccessibleName(tr("What is tried"));
    at_->setNumber(std::clamp(at_s, 0.0, latest_s));
    at_->setAccessibleName(tr("At"));
    at_->setToolTip(tr("The moment that the pictures show (s); each is run there from the start."));
    seed_count_->setNumber(9);
    seed_count_->setAccessibleName(tr("Seeds"));

    const auto quiet = [this](const QString& text) {
        auto* label = new QLabel(text, this);
        label->setProperty("ink", "quiet");
        return label;
    };
    auto* first = new QHBoxLayout;
    first->addWidget(quiet(tr("Try")));
    first->addWidget(kinds_);
    auto* seed_line = new QHBoxLayout(seeds_);
    seed_line->setContentsMargins(0, 0, 0, 0);
    seed_count_->setFixedWidth(46);
    seed_line->addWidget(seed_count_);
    seed_line->addWidget(quiet(tr("from this one on")));
    first->addWidget(seeds_);
    first->addStretch();
    first->addWidget(quiet(tr("at")));
    at_->setFixedWidth(56);
    first->addWidget(at_);
    first->addWidget(quiet(tr("s")));
    first->addWidget(try_);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(first);
    for (Line& line : lines_) {
        line.whole = new QWidget(this);
        line.number = new ChoiceBox(line.whole);
        line.number->setAccessibleName(tr("Number"));
        line.from = new NumberField(-1e9, 1e9, 1, false, tr("A number."), line.whole);
        line.to = new NumberField(-1e9, 1e9, 1, false, tr("A number."), line.whole);
        line.count =
            new NumberField(2, most_tries, 1, true, tr("2 to %1 tries.").arg(most_tries), line.whole);
        auto* row = new QHBoxLayout(line.whole);
        row->setContentsMargins(0, 0, 0, 0);
        row->addWidget(line.number, 1);
        row->addWidget(quiet(tr("from")));
        row->addWidget(line.from);
        row->addWidget(quiet(tr("to")));
        row->addWidget(line.to);
        row->addWidget(quiet(tr("in")));
        row->addWidget(line.count);
        row->addWidget(quiet(tr("tries")));
        for (NumberField* field : {line.from, line.to}) {
            field->setFixedWidth(64);
        }
        line.count->setFixedWidth(40);
        line.count->setNumber(&line == &lines_[0] ? 9 : 3);
        connect(line.number, &QComboBox::activated, this, [this, &line] { takeRange(line); });
        layout->addWidget(line.whole);
    }
    auto* scroll = new QScrollArea(this);
    scroll->setWidget(grid_);
    layout->addWidget(scroll, 1);
    auto* last = new QHBoxLayout;
    words_->setWordWrap(true);
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    progress_->setFixedWidth(140);
    auto* close = new QPushButton(tr("Close"), this);
    last->addWidget(words_, 1);
    last->addWidget(progress_);
    last->addWidget(take_);
    last->addWidget(close);
    layout->addLayout(last);
    for (QPushButton* button : {try_, take_, close}) {
        button->setAutoDefault(false);
    }
    take_->setToolTip(tr("Makes the chosen one the effect's; undo takes it back."));
    resize(3 * (TrialGrid::picture_size.width() + gap) + 48, 640);

    connect(kinds_, &QComboBox::activated, this, &TrialSheet::showKind);
    connect(try_, &QPushButton::clicked, this, [this] { trials_.isRunning() ? trials_.cancel() : start(); });
    connect(take_, &QPushButton::clicked, this, &TrialSheet::take);
    connect(close, &QPushButton::clicked, this, &QDialog::close);
    connect(grid_, &TrialGrid::chosen, this, &TrialSheet::showState);
    connect(grid_, &TrialGrid::taken, this, [this](int index) {
        grid_->choose(index);
        take();
    });
    connect(&trials_, &Trials::made, this, &TrialSheet::showMade);
    connect(&trials_, &Trials::progressed, progress_,
            [this](double share) { progress_->setValue(int(share * 1000)); });
    connect(&trials_, &Trials::finished, this, &TrialSheet::showState);
    fillNumbers();
    showKind();
}

TrialSheet::Kind TrialSheet::kind() const {
    return Kind(kinds_->currentIndex());
}

// Of all elements, looks and the stage.
void TrialSheet::fillNumbers() {
    const Effect& effect = *bench_.effect();
    const auto add = [&](const std::string& id) {
        const Holder holder = *find_holder(effect, id);
        for (const Parameter& parameter : holder.parameters) {
            for (int part = 0; part < driven_parts(parameter); ++part) {
                const QString name =
                    QString::fromStdString(holder.name) + " \u00b7 " + qtext(parameter.label) +
                    (driven_parts(parameter) > 1 ? " " + qtext(part_name(parameter, part)) : QString());
                for (Line& line : lines_) {
                    line.number->addItem(name, holder_key(id, std::string(parameter.key), part));
                }
            }
        }
    };
    for (const Element& element : effect.elements) {
        add(element.id);
    }
    for (const Look& look : effect.looks) {
        add(look.id);
    }
    add(std::string(stage_id));
    lines_[1].number->setCurrentIndex(std::min(1, lines_[1].number->count() - 1));
    for (Line& line : lines_) {
        takeRange(line);
    }
}

void TrialSheet::offerNumber(const std::string& holder, const std::string& parameter) {
    const int found = lines_[0].number->findData(holder_key(holder, parameter, 0));
    if (found >= 0) {
        kinds_->setCurrentIndex(int(Kind::number));
        lines_[0].number->setCurrentIndex(found);
        takeRange(lines_[0]);
        showKind();
    }
}

void TrialSheet::showKind() {
    seeds_->setVisible(kind() == Kind::seeds);
    lines_[0].whole->setVisible(kind() != Kind::seeds);
    lines_[1].whole->setVisible(kind() == Kind::two_numbers);
    if (kind() == Kind::two_numbers && lines_[0].count->number() * lines_[1].count->number() > most_tries) {
        lines_[0].count->setNumber(3);
    }
    showState();
}

// As the number's slider goes.
void TrialSheet::takeRange(Line& line) {
    const TriedNumber number = tried(line);
    const auto holder = find_holder(*bench_.effect(), number.holder);
    if (const Parameter* parameter = holder ? holder->find(number.parameter) : nullptr) {
        line.from->setNumber(parameter->soft_low);
        line.to->setNumber(parameter->soft_high);
    }
}

TriedNumber TrialSheet::tried(const Line& line) const {
    const QStringList key = line.number->currentData().toString().split('\t');
    return {key.value(0).toStdString(), key.value(1).toStdString(), key.value(2).toInt(),
            float(line.from->number()), float(line.to->number()),   int(line.count->number())};
}

int TrialSheet::count() const {
    return ordered_ == Kind::seeds    ? int(trials_.results().size())
           : ordered_ == Kind::number ? numbers_[0].count
                                      : numbers_[0].count * numbers_[1].count;
}

std::optional<Effect> TrialSheet::withCell(int index) {
    const Effect& effect = *bench_.effect();
    if (ordered_ == Kind::seeds) {
        return with_seed(effect, first_seed_ + uint32_t(index));
    }
    const int numbers = ordered_ == Kind::number ? 1 : 2;
    Effect changed = effect;
    for (int i = 0; i < numbers; ++i) {
        if (const auto refused = refusal_of(effect, numbers_[i])) {
            words_->setText(tr("Cannot be tried: %1").arg(QString::fromStdString(*refused)));
            return std::nullopt;
        }
        const int at = numbers == 1 ? index : i == 0 ? index % numbers_[0].count : index / numbers_[0].count;
        changed = with_try(changed, numbers_[i], at);
    }
    return changed;
}

QString TrialSheet::wordsOf(int index) const {
    const auto figure = [](float number) { return QString::number(double(number), 'g', 4); };
    switch (ordered_) {
    case Kind::seeds:
        return tr("seed %1").arg(first_seed_ + uint32_t(index));
    case Kind::number:
        return figure(numbers_[0].at(index));
    case Kind::two_numbers:
        return figure(numbers_[0].at(index % numbers_[0].count)) + " / " +
               figure(numbers_[1].at(index / numbers_[0].count));
    }
    return {};
}

void TrialSheet::start() {
    trials_.cancel();
    ordered_ = kind();
    first_seed_ = bench_.effect()->seed;
    numbers_[0] = tried(lines_[0]);
    numbers_[1] = tried(lines_[1]);
    const int wanted = ordered_ == Kind::seeds ? int(seed_count_->number()) : count();
    if (wanted > most_tries) {
        return words_->setText(tr("Not tried: %1 are more than %2 tries").arg(wanted).arg(most_tries));
    }
    Trials::Order order;
    order.folder = bench_.document().folder();
    order.at_s = at_->number();
    order.width = TrialGrid::picture_size.width() * 2;
    order.height = TrialGrid::picture_size.height() * 2;
    order.camera = camera_;
    std::vector<TrialGrid::Cell> cells;
    for (int i = 0; i < wanted; ++i) {
        auto effect = withCell(i);
        if (!effect) {
            return;
        }
        order.effects.push_back(std::move(*effect));
        cells.push_back({wordsOf(i), {}, {}});
    }
    const int columns = ordered_ == Kind::two_numbers ? numbers_[0].count : 3;
    grid_->setCells(std::move(cells), columns);
    progress_->setValue(0);
    trials_.start(std::move(order));
    grid_->setFocus();
    showState();
}

void TrialSheet::showMade(int index) {
    const Trials::Result& result = *trials_.results()[size_t(index)];
    const QImage image(reinterpret_cast<const uchar*>(result.picture.pixels.data()), result.picture.width,
                       result.picture.height, result.picture.width * 4, QImage::Format_RGB32);
    // What waits for other work now and then says nothing about the dearest step.
    QString figures = tr("%1 ms a step \u00b7 %2 alive")
                          .arg(result.figures.median_ms, 0, 'f', 1)
                          .arg(theme::short_count(double(result.figures.particles_then)));
    if (result.figures.pieces_most > 0) {
        figures += tr(" \u00b7 %1 pieces").arg(result.figures.pieces_then);
    }
    grid_->setCell(index,
                   {wordsOf(index), result.problem.isEmpty() ? figures : result.problem, image.copy()});
    showState();
}

void TrialSheet::take() {
    const int index = grid_->current();
    if (index >= count()) {
        return;
    }
    if (auto changed = withCell(index)) {
        bench_.edit(*changed, tr("take %1").arg(wordsOf(index)));
        words_->setText(tr("The effect has %1 now; undo takes it back.").arg(wordsOf(index)));
    }
}

void TrialSheet::showState() {
    const bool runs = trials_.isRunning();
    try_->setText(runs ? tr("Stop") : tr("Try"));
    progress_->setVisible(runs);
    const auto& results = trials_.results();
    const auto made = std::count_if(results.begin(), results.end(), [](const auto& each) { return each; });
    const bool has_current = size_t(grid_->current()) < results.size() && results[size_t(grid_->current())];
    take_->setEnabled(has_current);
    words_->setText(
        results.empty()
            ? tr("Each is run from the start, beside what plays, on one core.")
            : tr("%1 of %2 made; milliseconds are of steps on one core.").arg(made).arg(results.size()));
}

} // namespace ember
