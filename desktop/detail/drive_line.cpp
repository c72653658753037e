#include "desktop/detail/drive_line.h"

#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>

namespace ember {

DriveLine::DriveLine(const Drive& drive, const Parameter& parameter, const QString& modulator_name,
                     QWidget* parent)
    : QWidget(parent), part_(qtext(part_name(parameter, drive.part))), name_(new QToolButton(this)),
      shared_(new QToolButton(this)) {
    const auto field = [&](const QString& tip) {
        auto* number = new NumberField(parameter.hard_low, parameter.hard_high,
                                       (parameter.soft_high - parameter.soft_low) / 100, false,
                                       QString::fromStdString(expectation_of(parameter)), this);
        number->setUnit(qtext(parameter.unit));
        number->setFixedSize(48, 22);
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

    shared_->setFont(theme::text_font(8));
    shared_->setToolTip(
        tr("The same modulator drives other numbers, too. Press to see which, and to have one "
           "for this number alone."));
    connect(shared_, &QToolButton::clicked, this, &DriveLine::offerOwn);

    auto* to = new QLabel(tr("to"), this);
    to->setFont(theme::text_font(8.5));
    to->setProperty("ink", "quiet");
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(8, 0, 0, 4);
    layout->setSpacing(4);
    layout->addWidget(name_, 0, Qt::AlignLeft);
    layout->addWidget(shared_, 0, Qt::AlignLeft);
    layout->addStretch(1);
    layout->addWidget(low_);
    layout->addWidget(to);
    layout->addWidget(high_);
    setDrive(drive, modulator_name, {});
}

void DriveLine::offerOwn() {
    QMenu menu;
    for (const QString& other : others_) {
        menu.addAction(tr("Drives %1, too").arg(other))->setEnabled(false);
    }
    menu.addSeparator();
    menu.addAction(tr("Give this number a modulator of its own"), this, &DriveLine::ownRequested);
    menu.exec(shared_->mapToGlobal(QPoint(0, shared_->height())));
}

void DriveLine::setDrive(const Drive& drive, const QString& modulator_name, const QStringList& others) {
    drive_ = drive;
    name_->setText(part_.isEmpty() ? modulator_name : part_ + ": " + modulator_name);
    others_ = others;
    shared_->setVisible(!others.isEmpty());
    shared_->setText(tr("+%1").arg(others.size()));
    low_->setNumber(double(drive.low));
    high_->setNumber(double(drive.high));
}

} // namespace ember
