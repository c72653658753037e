#include "desktop/detail/parameter_row.h"

#include "core/effect/effect_file.h"
#include "desktop/controls/modulator_drag.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_words.h"
#include "desktop/detail/drive_line.h"
#include "desktop/detail/life_row.h"
#include "desktop/detail/text_rows.h"
#include "desktop/detail/value_rows.h"
#include "desktop/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QToolTip>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

ParameterRow* row_of_kind(const Parameter& parameter, QWidget* parent) {
    switch (parameter.kind) {
    case ParameterKind::number:
    case ParameterKind::count:
    case ParameterKind::range:
        return make_number_row(parameter, parent);
    case ParameterKind::vector:
        return make_vector_row(parameter, parent);
    case ParameterKind::toggle:
        return make_toggle_row(parameter, parent);
    case ParameterKind::choice:
    case ParameterKind::look:
        return make_choice_row(parameter, parent);
    case ParameterKind::colour:
        return make_colour_row(parameter, parent);
    case ParameterKind::curve:
        return make_curve_row(parameter, parent);
    case ParameterKind::ramp:
        return make_ramp_row(parameter, parent);
    case ParameterKind::points:
        return make_points_row(parameter, parent);
    case ParameterKind::file:
        return make_file_row(parameter, parent);
    case ParameterKind::texture:
    case ParameterKind::source:
    case ParameterKind::emitter:
    case ParameterKind::breakable:
    case ParameterKind::actor:
    case ParameterKind::number_of:
    case ParameterKind::place:
        return make_element_row(parameter, parent);
    }
    return nullptr;
}

} // namespace

ParameterRow* ParameterRow::make(const Parameter& parameter, QWidget* parent) {
    ParameterRow* row = row_of_kind(parameter, parent);
    row->setAcceptDrops(driven_parts(parameter) > 0);
    return row;
}

ParameterRow::ParameterRow(const Parameter& parameter, QWidget* parent)
    : QWidget(parent), parameter_(parameter), name_(new QLabel(qtext(parameter.label), this)),
      layout_(new QVBoxLayout(this)), line_(new QHBoxLayout) {
    setObjectName(qtext(parameter.key));
    showTip();
    layout_->setContentsMargins(0, 1, 0, 1);
    layout_->setSpacing(2);
    layout_->addLayout(line_);
    line_->setSpacing(5);
    name_->setFixedWidth(name_width);
    name_->setIndent(6);
    name_->setWordWrap(true);
    name_->installEventFilter(this);
    line_->addWidget(name_);
}

void ParameterRow::addBelow(QWidget* widget) {
    layout_->addWidget(widget);
}

QWidget* ParameterRow::nameLabel() const {
    return name_;
}

void ParameterRow::setChanged(bool changed) {
    if (changed != is_changed_) {
        is_changed_ = changed;
        update();
    }
}

void ParameterRow::showTip() {
    setToolTip(tipOf(parameter_) +
               tr("\nDouble-click the name for the default; the menu (right press) has earlier values and a "
                  "note.") +
               (driven_parts(parameter_) > 0
                    ? tr("\nTo let a modulator drive it: drag its chip here from the board, or Alt+M.")
                    : QString()) +
               (track_parts(parameter_) > 0
                    ? tr("\nAlt+K keys it at the moment that is shown, and takes the key away.")
                    : QString()) +
               (note_.isEmpty() ? QString() : tr("\n\nNote: %1").arg(note_)));
}

void ParameterRow::setNote(const QString& text) {
    if (text != note_) {
        note_ = text;
        showTip();
        update();
    }
}

void ParameterRow::setCaution(const QString& text) {
    if (text != caution_) {
        caution_ = text;
        update();
    }
}

void ParameterRow::askForNote() {
    bool ok = false;
    const QString text =
        QInputDialog::getText(this, tr("Note"), tr("What to remember about %1:").arg(qtext(parameter_.label)),
                              QLineEdit::Normal, note_, &ok);
    if (ok && text.trimmed() != note_) {
        emit noted(text.trimmed());
    }
}

void ParameterRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    if (takes_drop_) {
        painter.setPen(QPen(theme::ember, 1));
        painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
    }
    if (!caution_.isEmpty()) {
        painter.fillRect(QRectF(0, name_->y(), 4, name_->height()), theme::close);
    } else if (is_changed_) {
        painter.fillRect(QRectF(0, name_->y() + 3, 2, name_->height() - 6), theme::ember);
    }
    if (track_) {
        paintTrack(painter);
    }
    if (!note_.isEmpty()) {
        const QPointF corner(name_->geometry().right() + 0.5, name_->y() + 1);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme::close);
        painter.drawPolygon(QPolygonF{corner, corner - QPointF(7, 0), corner + QPointF(0, 7)});
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
    if (canBeDriven()) {
        fillDrives(menu.addMenu(tr("Driven by")));
    }
    if (canBeKeyed()) {
        menu.addAction(tr("Key it at %1 s").arg(now_s_, 0, 'f', 2), this, &ParameterRow::keyAsked);
    }
    if (hasKeyNow()) {
        menu.addAction(tr("Take this key away"), this, &ParameterRow::keyRemoved);
    }
    if (isKeyed()) {
        menu.addAction(tr("Take the track away"), this, &ParameterRow::trackRemoved);
    }
    if (canBeDriven()) {
        menu.addAction(tr("Try it over a range..."), this, &ParameterRow::tryAsked);
        menu.addAction(tr("Compare with another value..."), this, &ParameterRow::compareAsked);
    }
    menu.addAction(note_.isEmpty() ? tr("Note...") : tr("Change the note..."), this,
                   &ParameterRow::askForNote);
    if (!note_.isEmpty()) {
        menu.addAction(tr("Take the note away"), this, [this] { emit noted({}); });
    }
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

void ParameterRow::fillDrives(QMenu* menu) {
    menu->setToolTipsVisible(true);
    const int parts = driven_parts(parameter_);
    for (int part = 0; part < parts; ++part) {
        QMenu* target = parts == 1 ? menu : menu->addMenu(qtext(part_name(parameter_, part)));
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
}

void ParameterRow::offerDrives(const QPoint& place) {
    if (canBeDriven()) {
        QMenu menu;
        fillDrives(&menu);
        menu.exec(place);
    }
}

void ParameterRow::setPlain() {
    is_plain_ = true;
    setAcceptDrops(false);
}

void ParameterRow::contextMenuEvent(QContextMenuEvent* event) {
    is_plain_ ? event->ignore() : offerValues(event->globalPos());
}

void ParameterRow::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_K && event->modifiers() == Qt::AltModifier && canBeKeyed()) {
        return hasKeyNow() ? emit keyRemoved() : emit keyAsked();
    }
    if (event->key() == Qt::Key_M && event->modifiers() == Qt::AltModifier && canBeDriven()) {
        return offerDrives(mapToGlobal(QPoint(name_width, height())));
    }
    QWidget::keyPressEvent(event);
}

void ParameterRow::setTrack(const Track* track, double now_s) {
    const bool changes = track_.has_value() != (track != nullptr) || (track != nullptr && *track_ != *track);
    if (changes) {
        track_ = track != nullptr ? std::optional(*track) : std::nullopt;
        update();
    }
    if (isKeyed() && now_s_ != now_s) {
        update();
    }
    now_s_ = now_s;
}

bool ParameterRow::hasKeyNow() const {
    return track_ && std::any_of(track_->curves[0].points.begin(), track_->curves[0].points.end(),
                                 [this](const Curve::Point& key) {
                                     return std::abs(double(key.time) - now_s_) < double(one_key_s);
                                 });
}

// Below its name: where keys are between the first and the last, and the moment that is shown.
void ParameterRow::paintTrack(QPainter& painter) const {
    const auto& keys = track_->curves[0].points;
    const double from = std::min(double(keys.front().time), now_s_),
                 to = std::max(double(keys.back().time), now_s_);
    const double left = 8, right = name_width - 8, y = name_->geometry().bottom() - 0.5;
    const auto x_of = [&](double time_s) {
        return to > from ? left + (time_s - from) / (to - from) * (right - left) : left;
    };
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme::ember, 1));
    painter.drawLine(QPointF(left, y), QPointF(right, y));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ember);
    for (const Curve::Point& key : keys) {
        painter.drawEllipse(QPointF(x_of(double(key.time)), y), 2, 2);
    }
    painter.fillRect(QRectF(x_of(now_s_) - 0.5, y - 3, 1.5, 6), theme::text);
}

int ParameterRow::partAt(QPoint place) const {
    int part = 0, nearest = 0;
    double least = HUGE_VAL;
    for (int i = 0; i < line_->count(); ++i) {
        const auto* field = qobject_cast<const NumberField*>(line_->itemAt(i)->widget());
        if (field == nullptr) {
            continue;
        }
        const double away = std::abs(field->geometry().center().x() - place.x());
        nearest = away < least ? part : nearest;
        least = std::min(least, away);
        ++part;
    }
    return nearest;
}

void ParameterRow::dragEnterEvent(QDragEnterEvent* event) {
    const std::string id = event->mimeData()->data(modulator_mime).toStdString();
    takes_drop_ = std::any_of(modulators_.begin(), modulators_.end(),
                              [&](const auto& modulator) { return modulator.first == id; });
    takes_drop_ ? event->acceptProposedAction() : event->ignore();
    update();
}

void ParameterRow::dragLeaveEvent(QDragLeaveEvent*) {
    takes_drop_ = false;
    update();
}

void ParameterRow::dropEvent(QDropEvent* event) {
    takes_drop_ = false;
    update();
    event->acceptProposedAction();
    emit driveChosen(partAt(event->position().toPoint()),
                     event->mimeData()->data(modulator_mime).toStdString());
}

void ParameterRow::setModulatorNames(const Effect& effect, const std::string& holder_id) {
    is_budget_ = holder_id == budget_id || find_texture(effect, holder_id) != nullptr;
    for (const Element& element : effect.elements) {
        if (family_of(element.body) == Family::modulator && element.id != holder_id) {
            modulators_.emplace_back(element.id, element.name);
        }
    }
}

void ParameterRow::setDrives(const Effect& effect, const std::string& holder_id) {
    const auto is_of_this = [&](const Drive& drive) {
        return drive.holder == holder_id && drive.parameter == parameter_.key;
    };
    const bool has_drives = std::any_of(effect.drives.begin(), effect.drives.end(), is_of_this);
    if (!has_drives && drive_lines_.empty()) {
        return; // as nearly always: this runs for every row at every edit
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
            connect(line, &DriveLine::ownRequested, this,
                    [this, line] { emit ownModulatorRequested(line->drive()); });
            connect(line, &DriveLine::modulatorPressed, this,
                    [this, line] { emit modulatorRequested(line->drive().modulator); });
            addBelow(line);
        }
        line->setDrive(*drive, name, driven_words(effect, drive->modulator, drive));
        lines.push_back(line);
    }
    for (DriveLine* line : drive_lines_) {
        if (std::find(lines.begin(), lines.end(), line) == lines.end()) {
            line->deleteLater();
        }
    }
    drive_lines_ = lines;
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
