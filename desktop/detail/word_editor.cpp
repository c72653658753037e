#include "desktop/detail/word_editor.h"

#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/theme.h"

#include "core/effect/edit.h"

#include <QComboBox>
#include <QLabel>
#include <QVBoxLayout>

namespace ember {

WordEditor::WordEditor(const EffectPtr& effect, const std::string& id, const Parameter& parameter,
                       QWidget* parent)
    : QFrame(parent, Qt::Popup), effect_(effect), id_(id), row_(ParameterRow::make(parameter, this)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setFrameShape(QFrame::Box);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(10, 6, 10, 8);
    auto* help = new QLabel(qtext(parameter.help), this);
    help->setWordWrap(true);
    help->setFont(theme::text_font(8.5));
    help->setProperty("ink", "quiet");
    layout->addWidget(row_);
    layout->addWidget(help);
    setFixedWidth(330);
    // What the panel's rows offer besides stays there.
    row_->setPlain();
    setEffect(effect);
    connect(row_, &ParameterRow::edited, this, [this](const Value& value, bool continues) {
        const QString gesture =
            continues ? QStringLiteral("word %1 %2").arg(row_->objectName()).arg(gestures_) : QString();
        emit edited(with_value(*effect_, id_, row_->parameter(), value),
                    tr("change %1").arg(qtext(row_->parameter().label).toLower()), gesture);
        // A choice is all there is to do.
        const bool is_choice =
            row_->findChild<QComboBox*>() != nullptr || row_->findChild<PictureChoice*>() != nullptr;
        if (!continues && is_choice) {
            close();
        }
    });
    connect(row_, &ParameterRow::gestureEnded, this, [this] { ++gestures_; });
    connect(row_, &ParameterRow::resetRequested, this, [this] {
        const Value value = default_of(*find_holder(*effect_, id_), row_->parameter());
        emit edited(with_value(*effect_, id_, row_->parameter(), value), tr("reset to default"), {});
    });
}

void WordEditor::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    const Element* element = find_element(*effect, id_);
    if (element == nullptr) {
        close();
        return;
    }
    row_->setEffect(*effect, id_);
    row_->setValue(row_->parameter().get(find_holder(*effect, id_)->object));
}

} // namespace ember
