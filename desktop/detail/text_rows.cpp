#include "desktop/detail/text_rows.h"

#include "core/effect/edit.h"
#include "desktop/controls/choice_box.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMessageBox>
#include <QPlainTextEdit>
#include <QRegularExpression>
#include <QSignalBlocker>
#include <QStandardItemModel>
#include <QToolButton>
#include <QToolTip>

namespace ember {

namespace {

// A line of text for each point. Taken over when the keyboard leaves it, or with Ctrl+Enter.
class PointsRow : public ParameterRow {
  public:
    PointsRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), text_(new QPlainTextEdit(this)) {
        text_->setObjectName(QStringLiteral("points"));
        text_->setAccessibleName(qtext(parameter.label));
        text_->setFont(theme::figure_font(8.5));
        text_->setFixedHeight(92);
        text_->setTabChangesFocus(true);
        text_->setToolTip(tipOf(parameter) + tr("\nA line for each point: x y z. Ctrl+Enter takes it over."));
        text_->installEventFilter(this);
        line()->addWidget(text_, 1);
    }

    void setValue(const Value& value) override {
        const auto& points = std::get<Points>(value);
        if (points == points_) {
            return;
        }
        points_ = points;
        QStringList lines;
        for (const Vec3& p : points) {
            lines << QStringLiteral("%1 %2 %3").arg(p.x).arg(p.y).arg(p.z);
        }
        const QSignalBlocker blocker(text_);
        text_->setPlainText(lines.join('\n'));
    }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (watched == text_) {
            const auto* key = event->type() == QEvent::KeyPress ? static_cast<QKeyEvent*>(event) : nullptr;
            const bool enters = key != nullptr && (key->modifiers() & Qt::ControlModifier) &&
                                (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter);
            if (enters || event->type() == QEvent::FocusOut) {
                takeOver();
            }
            if (enters) {
                return true;
            }
        }
        return ParameterRow::eventFilter(watched, event);
    }

  private:
    void takeOver() {
        static const QRegularExpression gaps(QStringLiteral("[\\s,;]+"));
        Points points;
        bool fine = true;
        for (const QString& text : text_->toPlainText().split('\n', Qt::SkipEmptyParts)) {
            const QStringList numbers = text.split(gaps, Qt::SkipEmptyParts);
            float xyz[3] = {};
            fine = fine && numbers.size() == 3;
            for (qsizetype i = 0; fine && i < 3; ++i) {
                xyz[i] = numbers[i].toFloat(&fine);
            }
            points.emplace_back(xyz[0], xyz[1], xyz[2]);
        }
        if (points == points_) {
            return;
        }
        const auto refusal = fine ? refusal_of(parameter(), points) : expectation_of(parameter());
        if (refusal) {
            QToolTip::showText(text_->mapToGlobal(QPoint(0, text_->height())),
                               tr("Expected %1").arg(QString::fromStdString(*refusal)), text_);
            const Points before = points_;
            points_.clear();
            setValue(before);
            return;
        }
        points_ = points;
        emit edited(points, false);
    }

    QPlainTextEdit* text_;
    Points points_;
};

// A path relative to the effect's folder, typed or chosen. A file from elsewhere is copied there.
class FileRow : public ParameterRow {
  public:
    FileRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), text_(new QLineEdit(this)), choose_(new QToolButton(this)) {
        text_->setAccessibleName(qtext(parameter.label));
        text_->setPlaceholderText(tr("no file"));
        choose_->setText(tr("Choose"));
        choose_->setToolTip(tr("Choose a file; one from elsewhere is copied beside the effect."));
        line()->addWidget(text_, 1);
        line()->addWidget(choose_);
        connect(text_, &QLineEdit::editingFinished, this, [this] { take(text_->text().trimmed()); });
        connect(choose_, &QToolButton::clicked, this, &FileRow::choose);
    }

    void setValue(const Value& value) override {
        value_ = QString::fromStdString(std::get<std::string>(value));
        const QSignalBlocker blocker(text_);
        text_->setText(value_);
    }

  private:
    void take(const QString& file) {
        if (file == value_) {
            return;
        }
        if (const auto refusal = refusal_of(parameter(), file.toStdString())) {
            QToolTip::showText(text_->mapToGlobal(QPoint(0, text_->height())),
                               tr("Expected %1").arg(QString::fromStdString(*refusal)), text_);
            text_->setText(value_);
            return;
        }
        value_ = file;
        emit edited(file.toStdString(), false);
    }

    void choose() {
        if (folder().isEmpty()) {
            QMessageBox::information(this, tr("The effect has no folder yet"),
                                     tr("Save the effect first: the files that it uses lie beside it."));
            return;
        }
        QStringList endings;
        for (const std::string_view ending : parameter().choices) {
            endings << "*." + qtext(ending);
        }
        const QString chosen = QFileDialog::getOpenFileName(
            this, tr("Choose a file"), folder(), qtext(parameter().label) + " (" + endings.join(' ') + ")",
            nullptr, QFileDialog::DontUseNativeDialog);
        if (chosen.isEmpty()) {
            return;
        }
        QString inside = QDir(folder()).relativeFilePath(chosen);
        if (inside.startsWith(QLatin1String(".."))) {
            inside = QFileInfo(chosen).fileName();
            const QString copy = folder() + "/" + inside;
            if (!QFileInfo::exists(copy) && !QFile::copy(chosen, copy)) {
                QMessageBox::warning(this, tr("Not copied"), tr("%1 cannot be written.").arg(copy));
                return;
            }
        }
        take(inside);
        text_->setText(value_);
    }

    QLineEdit* text_;
    QToolButton* choose_;
    QString value_;
};

class ElementRow : public ParameterRow {
  public:
    ElementRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), box_(new ChoiceBox(this)) {
        box_->setAccessibleName(qtext(parameter.label));
        box_->setFocusPolicy(Qt::StrongFocus);
        line()->addWidget(box_, 1);
        connect(box_, &QComboBox::activated, this,
                [this](int index) { emit edited(box_->itemData(index).toString().toStdString(), false); });
        if (parameter.kind == ParameterKind::texture) {
            auto* bench = new QToolButton(this);
            bench->setText(tr("bench"));
            bench->setToolTip(tr("Opens the texture bench, where textures are made (T)."));
            line()->addWidget(bench);
            connect(bench, &QToolButton::clicked, this,
                    [this] { emit textureRequested(box_->currentData().toString().toStdString()); });
        }
    }

    void setEffect(const Effect& effect, const std::string& holder_id) override {
        const QSignalBlocker blocker(box_);
        box_->clear();
        const auto& choices = parameter().choices;
        box_->addItem(choices.empty() ? tr("nothing") : qtext(choices.front()), QString());
        const Element* own = find_element(effect, holder_id);
        const auto* trigger = own != nullptr ? std::get_if<Trigger>(&own->body) : nullptr;
        if (parameter().kind == ParameterKind::texture) {
            for (const Texture& texture : effect.textures) {
                box_->addItem(QString::fromStdString(texture.name), QString::fromStdString(texture.id));
            }
            return;
        }
        if (parameter().kind == ParameterKind::number_of) {
            const auto what = trigger != nullptr ? find_holder(effect, trigger->what) : std::nullopt;
            for (const Parameter* number : what ? settable_numbers(*what) : std::vector<const Parameter*>()) {
                box_->addItem(qtext(number->label), qtext(number->key));
            }
            return;
        }
        for (const Element& element : effect.elements) {
            const bool can = parameter().kind != ParameterKind::actor || trigger == nullptr ||
                             can_do(element, trigger->then) || element.id == trigger->what;
            if (!may_name(parameter().kind, element) || !can || element.id == holder_id) {
                continue;
            }
            box_->addItem(QString::fromStdString(element.name), QString::fromStdString(element.id));
            const QString why = whyNot(effect, holder_id, element);
            if (!why.isEmpty()) {
                auto* item = static_cast<QStandardItemModel*>(box_->model())->item(box_->count() - 1);
                item->setEnabled(false);
                item->setText(tr("%1: %2").arg(QString::fromStdString(element.name), why));
                item->setToolTip(item->text());
            }
        }
        if (parameter().kind == ParameterKind::actor && trigger != nullptr) {
            offerWhatHasOnlyNumbers(effect, *trigger);
        }
    }

    void setValue(const Value& value) override {
        const QSignalBlocker blocker(box_);
        box_->setCurrentIndex(box_->findData(QString::fromStdString(std::get<std::string>(value))));
    }

  private:
    void offerWhatHasOnlyNumbers(const Effect& effect, const Trigger& trigger) {
        const auto offer = [&](const QString& name, std::string_view id) {
            if (can_do(effect, id, trigger.then) || id == trigger.what) {
                box_->addItem(name, qtext(id));
            }
        };
        for (const Look& look : effect.looks) {
            offer(tr("Look: %1").arg(QString::fromStdString(look.name)), look.id);
        }
        offer(tr("Stage"), stage_id);
    }

    // Why an element cannot be chosen; empty if it can.
    QString whyNot(const Effect& effect, const std::string& holder_id, const Element& element) const {
        if (parameter().key != "rides_on" && parameter().key != "reach_rides_on") {
            return {};
        }
        if (std::holds_alternative<Breakable>(element.body)) {
            return tr("its pieces go their own ways");
        }
        const bool goes_round =
            whole_refusal(with_value(effect, holder_id, parameter(), element.id)).has_value() &&
            !whole_refusal(effect);
        return goes_round ? tr("rides on this") : QString();
    }

    QComboBox* box_;
};

} // namespace

ParameterRow* make_points_row(const Parameter& parameter, QWidget* parent) {
    return new PointsRow(parameter, parent);
}

ParameterRow* make_file_row(const Parameter& parameter, QWidget* parent) {
    return new FileRow(parameter, parent);
}

ParameterRow* make_element_row(const Parameter& parameter, QWidget* parent) {
    return new ElementRow(parameter, parent);
}

} // namespace ember
