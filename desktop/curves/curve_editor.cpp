#include "desktop/curves/curve_editor.h"

#include "desktop/controls/choice_box.h"
#include "desktop/controls/number_field.h"
#include "desktop/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

QToolButton* small_button(const QString& text, const QString& tip, QWidget* parent) {
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setToolTip(tip);
    button->setFont(theme::text_font(8.5));
    return button;
}

QLabel* small_label(QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setFont(theme::text_font(8.5));
    label->setProperty("ink", "quiet");
    return label;
}

} // namespace

CurveEditor::CurveEditor(const ValueLimits& limits, QWidget* parent)
    : QWidget(parent), limits_(limits), plot_(new CurvePlot(limits, this)), time_label_(small_label(this)),
      value_label_(small_label(this)),
      time_(
          new NumberField(0, 100, 0.01, false, tr("A time from 0 (birth) to 1 (death), or a factor."), this)),
      value_(new NumberField(
          std::min(-1000.0, double(limits.low)), std::max(1000.0, double(limits.high)), 0.01, false,
          tr("A value from %1 to %2, or a factor.").arg(double(limits.low)).arg(double(limits.high)), this)),
      bend_(new ChoiceBox(this)),
      window_(
          small_button(tr("Large"), tr("In a window of its own, as large as you like, and back."), this)) {
    for (NumberField* field : {time_, value_}) {
        field->setFixedSize(46, 22);
        connect(field, &NumberField::numberTyped, this, &CurveEditor::typed);
    }
    time_->setAccessibleName(tr("Time"));
    value_->setAccessibleName(tr("Value"));
    bend_->addItems({tr("smooth"), tr("slopes"), tr("handles")});
    bend_->setAccessibleName(tr("Bend"));
    bend_->setFocusPolicy(Qt::StrongFocus);
    bend_->setMinimumContentsLength(4);
    bend_->setToolTip(tr(
        "How the curve bends at the selected points.\nsmooth: never beyond its points. slopes: with a given "
        "slope on either side. handles: by hand.\nA double-click on a point goes from smooth to handles and "
        "back."));

    auto* exact = new QHBoxLayout;
    exact->setContentsMargins(0, 0, 0, 0);
    exact->setSpacing(4);
    exact->addWidget(time_label_);
    exact->addWidget(time_);
    exact->addWidget(value_label_);
    exact->addWidget(value_);
    exact->addWidget(bend_, 1);

    QToolButton* shapes = small_button(tr("Shapes"), tr("Ready curves to begin with; copy and paste."), this);
    shapes->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(shapes);
    for (const CurvePreset& preset : curve_presets()) {
        menu->addAction(tr(preset.name), this, [this, &preset] { applyPreset(preset.curve); });
    }
    menu->addSeparator();
    menu->addAction(tr("Copy the curve (Ctrl+C)"), plot_, &CurvePlot::copyRequested);
    menu->addAction(tr("Paste a curve (Ctrl+V)"), plot_, &CurvePlot::pasteRequested);
    shapes->setMenu(menu);
    QToolButton* snap = small_button(
        tr("Snap"), tr("Points move in even steps; Control does the opposite while it is held."), this);
    snap->setCheckable(true);
    connect(snap, &QToolButton::toggled, plot_, &CurvePlot::setSnaps);
    auto* tools = new QHBoxLayout;
    tools->setContentsMargins(0, 0, 0, 0);
    tools->setSpacing(4);
    connect(window_, &QToolButton::clicked, this, &CurveEditor::windowAsked);
    for (QToolButton* button : {shapes, snap, window_}) {
        tools->addWidget(button);
    }
    tools->addStretch();

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 2, 0, 6);
    layout->setSpacing(4);
    layout->addWidget(plot_);
    layout->addLayout(exact);
    layout->addLayout(tools);

    connect(plot_, &CurvePlot::selectionChanged, this, &CurveEditor::showSelection);
    connect(bend_, &QComboBox::activated, this, [this](int index) {
        plot_->replace(bent(plot_->curve(), plot_->selection(), Curve::Bend(index)));
    });
    showSelection();
}

void CurveEditor::setCurve(const Curve& curve) {
    plot_->setCurve(curve);
    showSelection();
}

// One point has a time and a value; several are stretched by factors.
void CurveEditor::showSelection() {
    const PointSet& points = plot_->selection();
    const bool is_one = points.size() == 1;
    time_label_->setText(points.size() > 1 ? tr("time \u00d7") : tr("time"));
    value_label_->setText(points.size() > 1 ? tr("value \u00d7") : tr("value"));
    time_->setNumber(is_one ? double(plot_->curve().points[points[0]].time) : 1);
    value_->setNumber(is_one ? double(plot_->curve().points[points[0]].value) : 1);
    for (QWidget* widget :
         {static_cast<QWidget*>(time_), static_cast<QWidget*>(value_), static_cast<QWidget*>(bend_)}) {
        widget->setEnabled(!points.empty());
    }
    if (!points.empty()) {
        bend_->setCurrentIndex(int(plot_->curve().points[points[0]].bend));
    }
}

void CurveEditor::typed() {
    const PointSet& points = plot_->selection();
    const auto time = float(time_->number()), value = float(value_->number());
    if (points.size() == 1) {
        const Curve::Point& point = plot_->curve().points[points[0]];
        plot_->replace(shifted(plot_->curve(), points, time - point.time, value - point.value, limits_));
    } else {
        plot_->replace(scaled(plot_->curve(), points, time, value, limits_));
    }
    showSelection();
}

void CurveEditor::applyPreset(const Curve& shape) {
    PointSet all;
    for (size_t i = 0; i < shape.points.size(); ++i) {
        all.push_back(i);
    }
    plot_->select({});
    plot_->replace(scaled(shape, all, 1, std::min(1.0f, limits_.high), limits_));
}

} // namespace ember
