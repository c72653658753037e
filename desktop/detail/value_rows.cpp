#include "desktop/detail/value_rows.h"

#include "desktop/controls/choice_box.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/colour_editor.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/controls/value_slider.h"
#include "desktop/theme.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>

#include <algorithm>
#include <optional>

namespace ember {

namespace {

constexpr int unit_width = 34;

NumberField* field_for(const Parameter& parameter, QWidget* parent) {
    const bool whole = parameter.kind == ParameterKind::count;
    const double step = (parameter.soft_high - parameter.soft_low) / 100;
    auto* field = new NumberField(parameter.hard_low, parameter.hard_high, step, whole,
                                  QString::fromStdString(expectation_of(parameter)), parent);
    field->setUnit(qtext(parameter.unit));
    field->setContextMenuPolicy(Qt::NoContextMenu); // the row has one
    if (parameter.unit == "ms") {
        field->setDecimals(2);
    }
    return field;
}

QLabel* unit_label(const Parameter& parameter, QWidget* parent) {
    // Counts name what they count; the row's own name says that already.
    const bool worth_showing = parameter.unit.size() <= 5;
    // The same in every language.
    const auto unit = QString::fromUtf8(parameter.unit.data(), qsizetype(parameter.unit.size()));
    auto* label = new QLabel(worth_showing ? unit : QString(), parent);
    label->setFont(theme::figure_font(8));
    label->setProperty("ink", "quiet");
    label->setFixedWidth(unit_width);
    return label;
}

// Slider and figure; for ranges two figures, and below them one bar with two ends.
class NumberRow : public ParameterRow {
  public:
    NumberRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent),
          slider_(new ValueSlider(parameter.soft_low, parameter.soft_high,
                                  parameter.kind == ParameterKind::count, this)) {
        const size_t knobs = parameter.kind == ParameterKind::range ? 2 : 1;
        slider_->setAccessibleName(qtext(parameter.label));
        if (knobs == 1) {
            line()->addWidget(slider_, 1);
        }
        for (size_t i = 0; i < knobs; ++i) {
            NumberField* field = field_for(parameter, this);
            if (knobs == 1) {
                field->setFixedWidth(56);
            }
            field->setAccessibleName(qtext(parameter.label));
            fields_.push_back(field);
            line()->addWidget(field, knobs == 1 ? 0 : 1);
            connect(field, &NumberField::numberTyped, this, [this, i](double number) { typed(i, number); });
        }
        line()->addWidget(unit_label(parameter, this));
        if (knobs == 2) {
            addBar();
        }
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
    // As wide as the figures above it.
    void addBar() {
        auto* indented = new QWidget(this);
        auto* bar = new QHBoxLayout(indented);
        bar->setContentsMargins(name_width + line()->spacing(), 0, unit_width + line()->spacing(), 2);
        slider_->setFixedHeight(14);
        bar->addWidget(slider_);
        addBelow(indented);
    }

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
        line()->setSpacing(3); // three figures with a sign and two decimals
        for (const char* axis : {"x", "y", "z"}) {
            NumberField* field = field_for(parameter, this);
            field->setAccessibleName(qtext(parameter.label) + " " + QLatin1String(axis));
            field->setStyleSheet(QStringLiteral("padding: 2px 1px;"));
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
        : ParameterRow(parameter, parent), box_(new ChoiceBox(this)) {
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

    void setEffect(const Effect& effect, const std::string&) override {
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

// One of a few, as small pictures.
class PictureRow : public ParameterRow {
  public:
    PictureRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), pictures_(new PictureChoice(parameter.choices, this)) {
        pictures_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(pictures_, 1);
        connect(pictures_, &PictureChoice::chosen, this, [this](int choice) { emit edited(choice, false); });
    }

    void setValue(const Value& value) override { pictures_->setCurrent(std::get<int>(value)); }

  private:
    PictureChoice* pictures_;
};

// A swatch that opens and closes an editor below it.
class ColourRow : public ParameterRow {
  public:
    ColourRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), button_(new QPushButton(this)) {
        button_->setFixedHeight(22);
        button_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(button_, 1);
        connect(button_, &QPushButton::clicked, this, [this] {
            ColourEditor* body = editor();
            body->setVisible(body->isHidden());
        });
    }

    void setValue(const Value& value) override {
        colour_ = std::get<Colour>(value);
        const QColor shown = screen_colour(colour_);
        const QString ink = theme::ink_on(shown).name();
        button_->setStyleSheet(
            QStringLiteral("background: %1; color: %2; padding: 0px;").arg(shown.name(), ink));
        button_->setFont(theme::figure_font(8));
        button_->setText(QStringLiteral("%1 %2 %3")
                             .arg(colour_.red, 0, 'g', 3)
                             .arg(colour_.green, 0, 'g', 3)
                             .arg(colour_.blue, 0, 'g', 3));
        if (editor_ != nullptr) {
            editor_->setColour(colour_);
        }
    }

    void openEditor() override { editor()->show(); }

  private:
    // Made when it is first opened.
    ColourEditor* editor() {
        if (editor_ == nullptr) {
            editor_ = new ColourEditor(this);
            editor_->setColour(colour_);
            editor_->hide();
            addBelow(editor_);
            connect(editor_, &ColourEditor::edited, this,
                    [this](const Colour& colour, bool continues) { emit edited(colour, continues); });
            connect(editor_, &ColourEditor::gestureEnded, this, &ParameterRow::gestureEnded);
            connect(editor_, &ColourEditor::pickRequested, this, [this] {
                emit pickRequested([this](const Colour& colour) { editor_->takeTint(colour); });
            });
        }
        return editor_;
    }

    QPushButton* button_;
    ColourEditor* editor_ = nullptr;
    Colour colour_;
};

} // namespace

ParameterRow* make_number_row(const Parameter& parameter, QWidget* parent) {
    return new NumberRow(parameter, parent);
}

ParameterRow* make_vector_row(const Parameter& parameter, QWidget* parent) {
    return new VectorRow(parameter, parent);
}

ParameterRow* make_toggle_row(const Parameter& parameter, QWidget* parent) {
    return new ToggleRow(parameter, parent);
}

ParameterRow* make_choice_row(const Parameter& parameter, QWidget* parent) {
    if (!parameter.choices.empty() && have_pictures(parameter.choices)) {
        return new PictureRow(parameter, parent);
    }
    return new ChoiceRow(parameter, parent);
}

ParameterRow* make_colour_row(const Parameter& parameter, QWidget* parent) {
    return new ColourRow(parameter, parent);
}

} // namespace ember
