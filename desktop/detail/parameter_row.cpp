#include "desktop/detail/parameter_row.h"

#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/life_row.h"
#include "desktop/detail/text_rows.h"
#include "desktop/theme.h"

#include <QCheckBox>
#include <QColorDialog>
#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr int name_width = 100;

NumberField* field_for(const Parameter& parameter, QWidget* parent) {
    const bool whole = parameter.kind == ParameterKind::count;
    const double step = (parameter.soft_high - parameter.soft_low) / 100;
    return new NumberField(parameter.hard_low, parameter.hard_high, step, whole,
                           QString::fromStdString(expectation_of(parameter)), parent);
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
            field->setFixedWidth(knobs == 2 ? 50 : 62);
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
        slider_->setValues(numbers);
        for (size_t i = 0; i < fields_.size(); ++i) {
            fields_[i]->setNumber(numbers[i]);
        }
    }

  private:
    void typed(size_t i, double number) {
        std::vector<double> values = slider_->values();
        values[i] = number;
        // The other end of a range gives way.
        if (values.size() == 2 && values[0] > values[1]) {
            values[1 - i] = number;
        }
        hand_in(values, false);
    }

    void hand_in(const std::vector<double>& values, bool continues) {
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
};

class VectorRow : public ParameterRow {
  public:
    VectorRow(const Parameter& parameter, QWidget* parent) : ParameterRow(parameter, parent) {
        for (const char* axis : {"x", "y", "z"}) {
            NumberField* field = field_for(parameter, this);
            field->setAccessibleName(qtext(parameter.label) + " " + QLatin1String(axis));
            field->setToolTip(QLatin1String(axis) + QStringLiteral("\n") + tipOf(parameter));
            connect(field, &NumberField::numberTyped, this, [this] {
                emit edited(Vec3{float(fields_[0]->number()), float(fields_[1]->number()),
                                 float(fields_[2]->number())},
                            false);
            });
            fields_.push_back(field);
            line()->addWidget(field, 1);
        }
        line()->addWidget(unit_label(parameter, this));
    }

    void setValue(const Value& value) override {
        const Vec3& v = std::get<Vec3>(value);
        fields_[0]->setNumber(v.x);
        fields_[1]->setNumber(v.y);
        fields_[2]->setNumber(v.z);
    }

  private:
    std::vector<NumberField*> fields_;
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

ParameterRow* ParameterRow::make(const Parameter& parameter, QWidget* parent) {
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

ParameterRow::ParameterRow(const Parameter& parameter, QWidget* parent)
    : QWidget(parent), parameter_(parameter), name_(new QLabel(qtext(parameter.label), this)),
      layout_(new QVBoxLayout(this)), line_(new QHBoxLayout) {
    setObjectName(qtext(parameter.key));
    setToolTip(tipOf(parameter) + tr("\nDouble-click the name for the default."));
    layout_->setContentsMargins(0, 1, 0, 1);
    layout_->setSpacing(2);
    layout_->addLayout(line_);
    line_->setSpacing(5);
    name_->setFixedWidth(name_width);
    name_->installEventFilter(this);
    line_->addWidget(name_);
}

void ParameterRow::addBelow(QWidget* widget) {
    layout_->addWidget(widget);
}

bool ParameterRow::eventFilter(QObject* watched, QEvent* event) {
    if (watched == name_ && event->type() == QEvent::MouseButtonDblClick) {
        emit resetRequested();
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace ember
