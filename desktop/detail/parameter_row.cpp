#include "desktop/detail/parameter_row.h"

#include "core/effect/effect_file.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/drive_line.h"
#include "desktop/detail/life_row.h"
#include "desktop/detail/text_rows.h"
#include "desktop/theme.h"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QColorDialog>
#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QIcon>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QToolButton>
#include <QToolTip>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr int name_width = 100;
constexpr int socket_width = 16;

// An open ring, or a filled one for what is driven.
QIcon socket_icon(bool driven) {
    constexpr int size = 32; // for screens of twice the pixels
    QPixmap picture(size, size);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(driven ? theme::ember : theme::quiet, 3));
    painter.setBrush(driven ? QBrush(theme::ember) : QBrush(Qt::NoBrush));
    painter.drawEllipse(QPointF(size / 2.0, size / 2.0), 8, 8);
    return QIcon(picture);
}

NumberField* field_for(const Parameter& parameter, QWidget* parent) {
    const bool whole = parameter.kind == ParameterKind::count;
    const double step = (parameter.soft_high - parameter.soft_low) / 100;
    auto* field = new NumberField(parameter.hard_low, parameter.hard_high, step, whole,
                                  QString::fromStdString(expectation_of(parameter)), parent);
    field->setUnit(qtext(parameter.unit));
    return field;
}

QLabel* unit_label(const Parameter& parameter, QWidget* parent) {
    // Counts name what they count; the row's own name says that already.
    const bool worth_showing = parameter.unit.size() <= 5;
    auto* label = new QLabel(worth_showing ? qtext(parameter.unit) : QString(), parent);
    label->setFont(theme::figure_font(8));
    label->setStyleSheet(QStringLiteral("color: #9aa4a6"));
    label->setFixedWidth(34);
    return label;
}

// Slider and figure; for ranges two of each.
class NumberRow : public ParameterRow {
  public:
    NumberRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent),
          slider_(new ValueSlider(parameter.soft_low, parameter.soft_high,
                                  parameter.kind == ParameterKind::count, this)) {
        const size_t knobs = parameter.kind == ParameterKind::range ? 2 : 1;
        slider_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(slider_, 1);
        for (size_t i = 0; i < knobs; ++i) {
            NumberField* field = field_for(parameter, this);
            field->setFixedWidth(knobs == 2 ? 46 : 60);
            field->setAccessibleName(qtext(parameter.label));
            fields_.push_back(field);
            line()->addWidget(field);
            connect(field, &NumberField::numberTyped, this, [this, i](double number) { typed(i, number); });
        }
        line()->addWidget(unit_label(parameter, this));
        connect(slider_, &ValueSlider::moved, this,
                [this](const std::vector<double>& values) { hand_in(values, true); });
        connect(slider_, &ValueSlider::released, this, &ParameterRow::gestureEnded);
    }

    void setValue(const Value& value) override {
        std::vector<double> numbers;
        if (const auto* range = std::get_if<Range>(&value)) {
            numbers = {range->low, range->high};
        } else if (const auto* count = std::get_if<int>(&value)) {
            numbers = {double(*count)};
        } else {
            numbers = {std::get<float>(value)};
        }
        own_ = numbers;
        slider_->setValues(numbers);
        for (size_t i = 0; i < fields_.size(); ++i) {
            fields_[i]->setNumber(numbers[i]);
        }
    }

  protected:
    void setDriven(int part, const Drive* drive) override {
        fields_[size_t(part)]->setEnabled(drive == nullptr);
        bands_.resize(fields_.size());
        bands_[size_t(part)] = drive == nullptr
                                   ? std::nullopt
                                   : std::optional(std::pair(double(std::min(drive->low, drive->high)),
                                                             double(std::max(drive->low, drive->high))));
        slider_->setBands(bands_);
    }
    void showDriven(int part, float number) override {
        std::vector<double> values = slider_->values();
        values[size_t(part)] = double(number);
        slider_->setValues(values);
        fields_[size_t(part)]->setNumber(double(number));
    }

  private:
    void typed(size_t i, double number) {
        std::vector<double> values = own_;
        values[i] = number;
        // The other end of a range gives way.
        if (values.size() == 2 && values[0] > values[1]) {
            values[1 - i] = number;
        }
        hand_in(values, false);
    }

    void hand_in(std::vector<double> values, bool continues) {
        // What is driven shows what it is now, and keeps what it was set to.
        for (size_t i = 0; i < bands_.size(); ++i) {
            values[i] = bands_[i] ? own_[i] : values[i];
        }
        switch (parameter().kind) {
        case ParameterKind::range:
            return emit edited(Range{float(values[0]), float(values[1])}, continues);
        case ParameterKind::count:
            return emit edited(int(values[0]), continues);
        default:
            return emit edited(float(values[0]), continues);
        }
    }

    ValueSlider* slider_;
    std::vector<NumberField*> fields_;
    std::vector<double> own_;                                     // as set, not as driven
    std::vector<std::optional<std::pair<double, double>>> bands_; // that ends are driven over
};

class VectorRow : public ParameterRow {
  public:
    VectorRow(const Parameter& parameter, QWidget* parent) : ParameterRow(parameter, parent) {
        for (const char* axis : {"x", "y", "z"}) {
            NumberField* field = field_for(parameter, this);
            field->setAccessibleName(qtext(parameter.label) + " " + QLatin1String(axis));
            field->setToolTip(QLatin1String(axis) + QStringLiteral("\n") + tipOf(parameter));
            connect(field, &NumberField::numberTyped, this, [this, part = fields_.size()](double number) {
                Vec3 value = own_;
                (part == 0 ? value.x : part == 1 ? value.y : value.z) = float(number);
                emit edited(value, false);
            });
            fields_.push_back(field);
            line()->addWidget(field, 1);
        }
        line()->addWidget(unit_label(parameter, this));
    }

    void setValue(const Value& value) override {
        const Vec3& v = own_ = std::get<Vec3>(value);
        fields_[0]->setNumber(v.x);
        fields_[1]->setNumber(v.y);
        fields_[2]->setNumber(v.z);
    }

  protected:
    void setDriven(int part, const Drive* drive) override {
        fields_[size_t(part)]->setEnabled(drive == nullptr);
    }
    void showDriven(int part, float number) override { fields_[size_t(part)]->setNumber(double(number)); }

  private:
    std::vector<NumberField*> fields_;
    Vec3 own_; // as set, not as driven
};

class ToggleRow : public ParameterRow {
  public:
    ToggleRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), box_(new QCheckBox(this)) {
        box_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(box_, 1);
        connect(box_, &QCheckBox::toggled, this, [this](bool on) { emit edited(on, false); });
    }

    void setValue(const Value& value) override {
        const QSignalBlocker blocker(box_);
        box_->setChecked(std::get<bool>(value));
    }

  private:
    QCheckBox* box_;
};

// A choice from a list of words, or of the effect's looks.
class ChoiceRow : public ParameterRow {
  public:
    ChoiceRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), box_(new QComboBox(this)) {
        box_->setAccessibleName(qtext(parameter.label));
        box_->setFocusPolicy(Qt::StrongFocus);
        line()->addWidget(box_, 1);
        for (const std::string_view choice : parameter.choices) {
            box_->addItem(qtext(choice));
        }
        connect(box_, &QComboBox::activated, this, [this](int index) {
            if (this->parameter().kind == ParameterKind::look) {
                emit edited(box_->itemData(index).toString().toStdString(), false);
            } else {
                emit edited(index, false);
            }
        });
    }

    void setEffect(const Effect& effect) override {
        if (parameter().kind != ParameterKind::look) {
            return;
        }
        const QSignalBlocker blocker(box_);
        box_->clear();
        for (const Look& look : effect.looks) {
            box_->addItem(QString::fromStdString(look.name), QString::fromStdString(look.id));
        }
    }

    void setValue(const Value& value) override {
        const QSignalBlocker blocker(box_);
        if (const auto* id = std::get_if<std::string>(&value)) {
            box_->setCurrentIndex(box_->findData(QString::fromStdString(*id)));
        } else {
            box_->setCurrentIndex(std::get<int>(value));
        }
    }

  private:
    QComboBox* box_;
};

// Linear light, of which the part above 1 is kept as a strength while the dialog chooses the tint.
class ColourRow : public ParameterRow {
  public:
    ColourRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), button_(new QPushButton(this)) {
        button_->setFixedHeight(22);
        button_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(button_, 1);
        connect(button_, &QPushButton::clicked, this, &ColourRow::choose);
    }

    void setValue(const Value& value) override {
        colour_ = std::get<Colour>(value);
        const QColor shown = shown_colour();
        const QString ink = qGray(shown.rgb()) > 120 ? QStringLiteral("#15191c") : QStringLiteral("#e8e1d3");
        button_->setStyleSheet(
            QStringLiteral("background: %1; color: %2; padding: 0px;").arg(shown.name(), ink));
        button_->setFont(theme::figure_font(8));
        button_->setText(QStringLiteral("%1 %2 %3")
                             .arg(colour_.red, 0, 'g', 3)
                             .arg(colour_.green, 0, 'g', 3)
                             .arg(colour_.blue, 0, 'g', 3));
    }

  private:
    float strength() const { return std::max({colour_.red, colour_.green, colour_.blue, 1.0f}); }
    QColor shown_colour() const { return screen_colour(colour_); }

    void choose() {
        const Colour before = colour_;
        const float factor = strength();
        QColorDialog dialog(shown_colour(), this);
        dialog.setOption(QColorDialog::DontUseNativeDialog);
        connect(&dialog, &QColorDialog::currentColorChanged, this, [this, factor](const QColor& chosen) {
            const Colour tint = linear_colour(chosen);
            emit edited(Colour{factor * tint.red, factor * tint.green, factor * tint.blue, 1}, true);
        });
        if (dialog.exec() == QDialog::Rejected) {
            emit edited(before, true);
        }
        emit gestureEnded();
    }

    QPushButton* button_;
    Colour colour_;
};

} // namespace

namespace {

ParameterRow* row_of_kind(const Parameter& parameter, QWidget* parent) {
    switch (parameter.kind) {
    case ParameterKind::number:
    case ParameterKind::count:
    case ParameterKind::range:
        return new NumberRow(parameter, parent);
    case ParameterKind::vector:
        return new VectorRow(parameter, parent);
    case ParameterKind::toggle:
        return new ToggleRow(parameter, parent);
    case ParameterKind::choice:
    case ParameterKind::look:
        return new ChoiceRow(parameter, parent);
    case ParameterKind::colour:
        return new ColourRow(parameter, parent);
    case ParameterKind::curve:
        return make_curve_row(parameter, parent);
    case ParameterKind::ramp:
        return make_ramp_row(parameter, parent);
    case ParameterKind::points:
        return make_points_row(parameter, parent);
    case ParameterKind::file:
        return make_file_row(parameter, parent);
    case ParameterKind::source:
    case ParameterKind::place:
        return make_element_row(parameter, parent);
    }
    return nullptr;
}

} // namespace

ParameterRow* ParameterRow::make(const Parameter& parameter, QWidget* parent) {
    ParameterRow* row = row_of_kind(parameter, parent);
    if (driven_parts(parameter) > 0) {
        row->addSocket();
    } else if (parameter.kind == ParameterKind::count) {
        row->line_->addSpacing(socket_width + row->line_->spacing()); // in line with the others
    }
    return row;
}

ParameterRow::ParameterRow(const Parameter& parameter, QWidget* parent)
    : QWidget(parent), parameter_(parameter), name_(new QLabel(qtext(parameter.label), this)),
      layout_(new QVBoxLayout(this)), line_(new QHBoxLayout) {
    setObjectName(qtext(parameter.key));
    setToolTip(tipOf(parameter) +
               tr("\nDouble-click the name for the default; its menu has earlier values."));
    layout_->setContentsMargins(0, 1, 0, 1);
    layout_->setSpacing(2);
    layout_->addLayout(line_);
    line_->setSpacing(5);
    name_->setFixedWidth(name_width);
    name_->setIndent(6);
    name_->installEventFilter(this);
    name_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(name_, &QLabel::customContextMenuRequested, this,
            [this](const QPoint& place) { offerValues(name_->mapToGlobal(place)); });
    line_->addWidget(name_);
}

void ParameterRow::addBelow(QWidget* widget) {
    layout_->addWidget(widget);
}

QWidget* ParameterRow::nameLabel() const {
    return name_;
}

void ParameterRow::setChanged(bool changed) {
    is_changed_ = changed;
    update();
}

void ParameterRow::paintEvent(QPaintEvent*) {
    if (is_changed_) {
        QPainter(this).fillRect(QRectF(0, name_->y() + 3, 2, name_->height() - 6), theme::ember);
    }
}

void ParameterRow::offerValues(const QPoint& place) {
    QMenu menu;
    menu.addAction(tr("Back to the default"), this, &ParameterRow::resetRequested);
    const auto add = [&](const QString& text, const Value& value) {
        menu.addAction(text, this, [this, value] { emit edited(value, false); });
    };
    if (!earlier_.empty()) {
        menu.addSeparator();
        for (const Value& value : earlier_) {
            add(tr("Earlier: %1").arg(QString::fromStdString(value_text(parameter_, value)).left(40)), value);
        }
    }
    menu.addSeparator();
    menu.addAction(tr("Copy the value"), this, &ParameterRow::copyRequested);
    menu.addAction(tr("Paste a value"), this, &ParameterRow::paste);
    menu.exec(place);
}

void ParameterRow::paste() {
    const auto value = parse_value(parameter_, QApplication::clipboard()->text().toStdString());
    const auto refusal = value ? refusal_of(parameter_, *value) : expectation_of(parameter_);
    if (!refusal) {
        return emit edited(*value, false);
    }
    QToolTip::showText(mapToGlobal(QPoint(20, height())),
                       tr("Not pasted: what was copied is not %1.").arg(QString::fromStdString(*refusal)),
                       this);
}

void ParameterRow::addSocket() {
    socket_ = new QToolButton(this);
    socket_->setProperty("quiet", true);
    socket_->setFixedSize(socket_width, 20);
    socket_->setStyleSheet(QStringLiteral("padding: 0px"));
    socket_->setIcon(socket_icon(false));
    socket_->setAccessibleName(tr("Drive of %1").arg(qtext(parameter_.label)));
    socket_->setToolTip(
        tr("Lets a modulator drive this number over time: a cycle, growth, a curve, chance, a reading."));
    connect(socket_, &QToolButton::clicked, this, &ParameterRow::offerDrives);
    line_->addWidget(socket_);
}

void ParameterRow::offerDrives() {
    QMenu menu;
    menu.setToolTipsVisible(true);
    const int parts = driven_parts(parameter_);
    for (int part = 0; part < parts; ++part) {
        QMenu* target = parts == 1 ? &menu : menu.addMenu(qtext(part_name(parameter_, part)));
        const auto driven =
            std::find_if(drive_lines_.begin(), drive_lines_.end(),
                         [part](const DriveLine* line) { return line->drive().part == part; });
        for (const auto& [id, name] : modulators_) {
            QAction* action = target->addAction(QString::fromStdString(name), this,
                                                [this, part, id = id] { emit driveChosen(part, id); });
            action->setCheckable(true);
            action->setChecked(driven != drive_lines_.end() && (*driven)->drive().modulator == id);
        }
        target->addSeparator();
        for (const ElementType& type : element_types()) {
            if (family_of(type.prototype) == Family::modulator) {
                QAction* action = target->addAction(
                    tr("New %1").arg(qtext(type.label).toLower()), this,
                    [this, part, key = std::string(type.key)] { emit newDriveChosen(part, key); });
                action->setToolTip(qtext(type.help));
            }
        }
        if (driven != drive_lines_.end()) {
            target->addSeparator();
            target->addAction(tr("Not driven"), this, [this, part] { emit driveRemoved(part); });
        }
    }
    menu.exec(socket_->mapToGlobal(QPoint(0, socket_->height())));
}

void ParameterRow::setDrives(const Effect& effect, const std::string& holder_id) {
    if (socket_ == nullptr) {
        return;
    }
    modulators_.clear();
    for (const Element& element : effect.elements) {
        if (family_of(element.body) == Family::modulator && element.id != holder_id) {
            modulators_.emplace_back(element.id, element.name);
        }
    }
    std::vector<DriveLine*> lines;
    for (int part = 0; part < driven_parts(parameter_); ++part) {
        const Drive* drive = find_drive(effect, holder_id, parameter_.key, part);
        const auto old = std::find_if(drive_lines_.begin(), drive_lines_.end(),
                                      [part](const DriveLine* line) { return line->drive().part == part; });
        DriveLine* line = old != drive_lines_.end() ? *old : nullptr;
        setDriven(part, drive);
        if (drive == nullptr) {
            continue;
        }
        const QString name = QString::fromStdString(find_element(effect, drive->modulator)->name);
        if (line == nullptr) {
            line = new DriveLine(*drive, parameter_, name, this);
            connect(line, &DriveLine::rangeTyped, this, [this, line](float low, float high) {
                Drive changed = line->drive();
                changed.low = low;
                changed.high = high;
                emit driveRangeTyped(changed);
            });
            connect(line, &DriveLine::modulatorPressed, this,
                    [this, line] { emit modulatorRequested(line->drive().modulator); });
            addBelow(line);
        }
        line->setDrive(*drive, name);
        lines.push_back(line);
    }
    for (DriveLine* line : drive_lines_) {
        if (std::find(lines.begin(), lines.end(), line) == lines.end()) {
            line->deleteLater();
        }
    }
    drive_lines_ = lines;
    socket_->setIcon(socket_icon(!lines.empty()));
}

void ParameterRow::setModulators(const std::vector<ModulatorValue>& values) {
    for (const DriveLine* line : drive_lines_) {
        for (const ModulatorValue& value : values) {
            if (value.id == line->drive().modulator) {
                // Three digits: more cannot be read while they change.
                const float number = driven_number(line->drive(), parameter_, value.value);
                showDriven(line->drive().part, QString::number(double(number), 'g', 3).toFloat());
            }
        }
    }
}

bool ParameterRow::eventFilter(QObject* watched, QEvent* event) {
    if (watched == name_ && event->type() == QEvent::MouseButtonDblClick) {
        emit resetRequested();
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace ember
