#include "desktop/dialogs/picture_sheet.h"

#include "core/base/file.h"
#include "core/effect/parameter.h"
#include "desktop/controls/choice_box.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/number_field.h"
#include "desktop/theme.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int longest_side = 16384;
std::span<const std::string_view> frame_shapes() {
    const std::span<const Parameter> all = stage_parameters();
    return std::find_if(all.begin(), all.end(),
                        [](const Parameter& each) { return each.key == "frame_shape"; })
        ->choices;
}

} // namespace

PictureSheet::PictureSheet(const Stage& stage, QSize shown, const QString& path, QWidget* parent)
    : QDialog(parent), stage_(stage), shown_(shown), shapes_(new PictureChoice(frame_shapes(), this)),
      sizes_(new ChoiceBox(this)),
      width_(new NumberField(1, longest_side, 16, true, tr("A width from 1 to %1 pixels.").arg(longest_side),
                             this)),
      height_(new NumberField(1, longest_side, 16, true,
                              tr("A height from 1 to %1 pixels.").arg(longest_side), this)),
      kinds_(new ChoiceBox(this)), path_(new QLineEdit(path, this)), facts_(new QLabel(this)) {
    setWindowTitle(tr("Save the picture"));
    shapes_->setCurrent(int(stage.frame_shape));
    shapes_->setAccessibleName(tr("Frame shape"));
    shapes_->setToolTip(tr("The effect's own to begin with; free: as the window shows it."));
    kinds_->addItems({tr("as on the screen, PNG"), tr("linear light, OpenEXR"),
                      tr("without the stage, with opacity, PNG"),
                      tr("without the stage, linear light and opacity, OpenEXR")});
    kinds_->setAccessibleName(tr("What is saved"));
    sizes_->setAccessibleName(tr("Size"));
    path_->setAccessibleName(tr("Where to"));
    width_->setAccessibleName(tr("Width"));
    height_->setAccessibleName(tr("Height"));
    facts_->setWordWrap(true);
    facts_->setMinimumHeight(34);

    auto* figures = new QHBoxLayout;
    for (NumberField* field : {width_, height_}) {
        field->setFixedWidth(70);
        connect(field, &NumberField::numberTyped, this, [this, field] { typed(field == width_); });
    }
    figures->addWidget(sizes_, 1);
    figures->addWidget(width_);
    figures->addWidget(new QLabel(QStringLiteral("\u00d7"), this));
    figures->addWidget(height_);
    figures->addWidget(new QLabel(tr("px"), this));
    auto* place = new QHBoxLayout;
    auto* other = new QPushButton(tr("Choose..."), this);
    other->setAutoDefault(false);
    place->addWidget(path_, 1);
    place->addWidget(other);

    auto* form = new QFormLayout;
    form->addRow(tr("Frame shape"), shapes_);
    form->addRow(tr("Size"), figures);
    form->addRow(tr("What"), kinds_);
    form->addRow(tr("Where to"), place);
    auto* buttons = new QDialogButtonBox(this);
    save_ = buttons->addButton(tr("Save"), QDialogButtonBox::AcceptRole);
    save_->setDefault(true);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(form);
    layout->addWidget(facts_);
    layout->addWidget(buttons);
    setMinimumWidth(520);

    connect(shapes_, &PictureChoice::chosen, this, [this] {
        fillSizes();
        takeSize();
    });
    connect(sizes_, &QComboBox::activated, this, &PictureSheet::takeSize);
    connect(kinds_, &QComboBox::activated, this, [this] { path_->setText(this->path()); });
    connect(kinds_, &QComboBox::activated, this, &PictureSheet::check);
    connect(path_, &QLineEdit::textChanged, this, &PictureSheet::check);
    connect(other, &QPushButton::clicked, this, &PictureSheet::browse);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    fillSizes();
    sizes_->setCurrentIndex(1);
    takeSize();
}

double PictureSheet::ratio() const {
    Stage stage = stage_;
    stage.frame_shape = FrameShape(shapes_->current());
    const auto ratio = frame_ratio_of(stage);
    return ratio ? double(*ratio) : double(shown_.width()) / double(shown_.height());
}

// By its longer side; the other follows from the shape.
void PictureSheet::fillSizes() {
    const int kept = sizes_->currentIndex();
    sizes_->clear();
    const int seen = std::max(shown_.width(), shown_.height());
    const auto add = [this](const QString& words, int longer) {
        const double wide = ratio() >= 1 ? longer : longer * ratio();
        const double high = ratio() >= 1 ? longer / ratio() : longer;
        const QSize size = QSize(int(std::lround(wide)), int(std::lround(high))).expandedTo({1, 1});
        sizes_->addItem(words, size);
    };
    add(tr("as in the window"), seen);
    add(tr("twice as in the window"), std::min(2 * seen, longest_side));
    add(tr("1280 along its longer side"), 1280);
    add(tr("1920 along its longer side"), 1920);
    add(tr("3840 along its longer side"), 3840);
    add(tr("7680 along its longer side"), 7680);
    sizes_->setCurrentIndex(std::max(kept, 0));
}

void PictureSheet::takeSize() {
    const QSize size = sizes_->currentData().toSize();
    width_->setNumber(size.width());
    height_->setNumber(size.height());
    check();
}

// The shape is kept, unless it is free.
void PictureSheet::typed(bool is_width) {
    if (shapes_->current() != int(FrameShape::free)) {
        is_width ? height_->setNumber(
                       std::clamp(std::round(width_->number() / ratio()), 1.0, double(longest_side)))
                 : width_->setNumber(
                       std::clamp(std::round(height_->number() * ratio()), 1.0, double(longest_side)));
    }
    check();
}

StillOptions PictureSheet::options() const {
    return {int(width_->number()), int(height_->number()), kinds_->currentIndex() >= 2};
}

QString PictureSheet::path() const {
    const QString ending = kinds_->currentIndex() % 2 == 0 ? QStringLiteral(".png") : QStringLiteral(".exr");
    const QString typed = path_->text().trimmed();
    const bool has_other = typed.endsWith(QLatin1String(".png"), Qt::CaseInsensitive) ||
                           typed.endsWith(QLatin1String(".exr"), Qt::CaseInsensitive);
    return (has_other ? typed.left(typed.size() - 4) : typed) + ending;
}

void PictureSheet::browse() {
    QFileDialog dialog(this, tr("Save the picture"), QFileInfo(path()).path());
    dialog.setOption(QFileDialog::DontUseNativeDialog);
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setOption(QFileDialog::DontConfirmOverwrite); // the sheet says it
    dialog.selectFile(QFileInfo(path()).fileName());
    if (dialog.exec() == QDialog::Accepted) {
        path_->setText(dialog.selectedFiles().constFirst());
        path_->setText(path());
    }
}

void PictureSheet::check() {
    const double megapixels = width_->number() * height_->number() / 1e6;
    QString text = tr("%1 million pixels.").arg(megapixels, 0, 'f', megapixels < 1 ? 2 : 1);
    const auto refused = path_->text().trimmed().isEmpty()
                             ? std::optional<Problem>(Problem{"", 0, "", "", tr("a name").toStdString()})
                             : refusal_to_write(path().toStdString());
    if (refused) {
        text = tr("Cannot be written: %1").arg(QString::fromStdString(refused->text()));
    } else if (QFileInfo::exists(path())) {
        text += tr(" The file that is there is replaced.");
    }
    facts_->setStyleSheet(QStringLiteral("color: %1").arg((refused ? theme::close : theme::quiet).name()));
    facts_->setText(text);
    save_->setEnabled(!refused);
}

} // namespace ember
