#include "desktop/view/lens_bar.h"

#include "desktop/controls/choice_box.h"

#include "desktop/controls/value_slider.h"
#include "desktop/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QSignalBlocker>

namespace ember {

LensBar::LensBar(QWidget* parent)
    : QWidget(parent), kind_(new ChoiceBox(this)), of_(new ChoiceBox(this)), aspect_(new ChoiceBox(this)),
      across_(new ChoiceBox(this)), offset_(new ValueSlider(-1, 1, false, this)),
      apart_(new ValueSlider(0, 2, false, this)) {
    kind_->addItems({tr("picture"), tr("arrows"), tr("streamlines"), tr("slice"), tr("smoke"), tr("age"),
                     tr("contacts"), tr("cost heat"), tr("cut")});
    kind_->setToolTip(
        tr("The lens: what is seen besides the picture (L).\nArrows, streamlines and a "
           "coloured slice show what forces "
           "do to a particle at rest; the pointer reads single places. Smoke: a slice through its volumes. "
           "Age: newborn white, "
           "then warm, then blue. Contacts: what hits something, and how hard. Cost heat: where the "
           "milliseconds go. Cut: breakables as they are cut, with their pieces apart."));
    kind_->setAccessibleName(tr("Lens"));
    of_->setToolTip(tr("Which forces are seen: the selected one, or the sum of all that act on a source."));
    of_->setAccessibleName(tr("Forces seen"));
    aspect_->addItems({tr("density"), tr("flow"), tr("left by pressure"), tr("outflow")});
    aspect_->setToolTip(tr(
        "What of the smoke is seen: how dense it is; how fast and where it flows, in m/s;\nwhat still flows "
        "out of cells when the pressure's solver ends, and what does so in the velocities that follow, in "
        "m/s:\nboth are next to nothing where all is well."));
    aspect_->setAccessibleName(tr("Of the smoke"));
    across_->addItems({tr("facing you"), tr("across x"), tr("level"), tr("across z")});
    across_->setToolTip(tr("How the plane lies that forces or smoke are seen on."));
    across_->setAccessibleName(tr("Plane"));
    offset_->setValues({0});
    offset_->setFixedWidth(90);
    offset_->setToolTip(tr("Moves the plane through the effect."));
    offset_->setAccessibleName(tr("Place of the plane"));

    apart_->setValues({0.5});
    apart_->setFixedWidth(120);
    apart_->setToolTip(tr("How far apart the pieces of breakables are drawn, in shares of the body."));
    apart_->setAccessibleName(tr("Pieces apart"));

    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    for (QComboBox* box : {kind_, of_, aspect_, across_}) {
        box->setFont(theme::text_font(8.5));
        layout->addWidget(box);
        connect(box, &QComboBox::activated, this, &LensBar::read);
    }
    connect(of_, &QComboBox::activated, this, [this] { chosen_source_ = of_->currentData().toString(); });
    layout->addWidget(offset_);
    connect(offset_, &ValueSlider::moved, this, &LensBar::read);
    layout->addWidget(apart_);
    connect(apart_, &ValueSlider::moved, this, &LensBar::read);
    read();
}

void LensBar::setEffect(const Effect& effect, const std::string& selection) {
    std::string signature = selection;
    for (const Element& element : effect.elements) {
        signature += "\n" + element.id + "\t" + element.name;
    }
    if (signature == built_for_) {
        return;
    }
    built_for_ = signature;
    const Element* selected = find_element(effect, selection);
    selected_influence_ = selected != nullptr && family_of(selected->body) == Family::force ? selection : "";
    {
        const QSignalBlocker blocker(of_);
        of_->clear();
        if (!selected_influence_.empty()) {
            of_->addItem(QString::fromStdString(selected->name), QString());
        }
        for (const Element& element : effect.elements) {
            if (takes_links(element.body)) {
                of_->addItem(tr("all on %1").arg(QString::fromStdString(element.name)),
                             QString::fromStdString(element.id));
            }
        }
        // The selected force comes first, unless a source was chosen by hand.
        of_->setCurrentIndex(std::max(of_->findData(chosen_source_), 0));
    }
    read();
}

void LensBar::choose(ForceLens::Kind kind) {
    kind_->setCurrentIndex(int(kind));
    read();
}

void LensBar::next() {
    kind_->setCurrentIndex((kind_->currentIndex() + 1) % kind_->count());
    read();
}

void LensBar::read() {
    ForceLens lens;
    lens.kind = ForceLens::Kind(kind_->currentIndex());
    lens.aspect = SmokeAspect(aspect_->currentIndex());
    lens.across = Across(across_->currentIndex());
    lens.offset = float(offset_->values()[0]);
    lens.apart = lens.kind == ForceLens::Kind::cut ? float(apart_->values()[0]) : 0;
    lens.source = of_->currentData().toString().toStdString();
    lens.influence = lens.source.empty() ? selected_influence_ : "";
    of_->setVisible(lens.shows_forces());
    aspect_->setVisible(lens.kind == ForceLens::Kind::smoke);
    across_->setVisible(lens.has_plane());
    offset_->setVisible(lens.has_plane());
    apart_->setVisible(lens.kind == ForceLens::Kind::cut);
    adjustSize();
    if (lens != lens_) {
        lens_ = lens;
        emit changed();
    }
}

} // namespace ember
