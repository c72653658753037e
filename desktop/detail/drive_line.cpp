#include "desktop/detail/drive_line.h"

#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

namespace ember {

DriveLine::DriveLine(const Drive& drive, const Parameter& parameter, const QString& modulator_name,
                     QWidget* parent)
    : QWidget(parent), part_(qtext(part_name(parameter, drive.part))), name_(new QToolButton(this)) {
    const auto field = [&](const QString& tip) {
        auto* number = new NumberField(parameter.hard_low, parameter.hard_high,
                                       (parameter.soft_high - parameter.soft_low) / 100, false,
                                       QString::fromStdString(expectation_of(parameter)), this);
        number->setUnit(qtext(parameter.unit));
        number->setFixedSize(58, 22);
        number->setToolTip(tip);
        connect(number, &NumberField::numberTyped, this,
                [this] { emit rangeTyped(float(low_->number()), float(high_->number())); });
        return number;
    };
    low_ = field(tr("What the number is while the modulator is at 0."));
    high_ = field(tr("What the number is while the modulator is at 1; it may be the smaller one."));
    low_->setAccessibleName(tr("Drive from"));
    high_->setAccessibleName(tr("Drive to"));
    name_->setProperty("quiet", true);
    name_->setFont(theme::text_font(8.5));
    name_->setToolTip(tr("The modulator that drives this. Press to go to it."));
    connect(name_, &QToolButton::clicked, this, &DriveLine::modulatorPressed);

    auto* to = new QLabel(tr("to"), this);
    to->setFont(theme::text_font(8.5));
    to->setStyleSheet(QStringLiteral("color: #9aa4a6"));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(8, 0, 0, 4);
    layout->setSpacing(4);
    layout->addWidget(name_, 1, Qt::AlignLeft);
    layout->addWidget(low_);
    layout->addWidget(to);
    layout->addWidget(high_);
    setDrive(drive, modulator_name);
}

void DriveLine::setDrive(const Drive& drive, const QString& modulator_name) {
    drive_ = drive;
    name_->setText(part_.isEmpty() ? modulator_name : part_ + ": " + modulator_name);
    low_->setNumber(double(drive.low));
    high_->setNumber(double(drive.high));
}

} // namespace ember
