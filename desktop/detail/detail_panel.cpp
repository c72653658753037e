#include "desktop/detail/detail_panel.h"

#include "core/budget/expected.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QSignalBlocker>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

namespace ember {

namespace {

QToolButton* switch_button(const QString& text, const QString& tip, QWidget* parent) {
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setToolTip(tip);
    button->setCheckable(true);
    return button;
}

} // namespace

DetailPanel::DetailPanel(QWidget* parent)
    : QWidget(parent), name_(new QLineEdit(this)), type_(new QLabel(this)),
      mute_(switch_button(tr("mute"),
                          tr("The effect runs as if this were not there, and it costs nothing (M)."), this)),
      solo_(switch_button(tr("solo"), tr("Only the soloed ones of this side of the board act (S)."), this)),
      scroll_layout_(new QVBoxLayout), scroll_(new QScrollArea(this)), warning_(new QLabel(this)),
      costs_(new QLabel(this)) {
    name_->setProperty("title", true);
    name_->setFont(theme::text_font(11.5, QFont::DemiBold));
    name_->setMaxLength(60);
    name_->setAccessibleName(tr("Name"));
    name_->setToolTip(tr("The name of the element; type another and press Enter (F2)."));
    type_->setProperty("ink", "quiet");
    costs_->setFont(theme::text_font(9));
    costs_->setWordWrap(true);
    costs_->setProperty("ink", "cost");

    warning_->setWordWrap(true);
    warning_->setFont(theme::text_font(9));
    warning_->setProperty("ink", "close");
    warning_->setAccessibleName(tr("Warning"));

    auto* title = new QHBoxLayout;
    title->addWidget(name_, 1);
    title->addWidget(type_);
    auto* switches = new QHBoxLayout;
    switches->addWidget(mute_);
    switches->addWidget(solo_);
    switches->addStretch();

    auto* inside = new QWidget;
    scroll_layout_->setContentsMargins(0, 0, 8, 0);
    inside->setLayout(scroll_layout_);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    scroll_->setWidget(inside);

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 12, 10);
    layout->addLayout(title);
    layout->addLayout(switches);
    layout->addWidget(warning_);
    layout->addWidget(scroll_, 1);
    layout->addWidget(costs_);

    connect(name_, &QLineEdit::editingFinished, this, [this] {
        const Element* element = find_element(*effect_, selection_);
        const std::string typed = name_->text().trimmed().toStdString();
        if (element != nullptr && !typed.empty() && typed != element->name) {
            emit edited(with_name(*effect_, selection_, typed), tr("rename"), {});
        }
        showValues();
    });
    connect(mute_, &QToolButton::clicked, this, [this](bool on) {
        emit edited(with_muted(*effect_, selection_, on), on ? tr("mute") : tr("unmute"), {});
    });
    connect(solo_, &QToolButton::clicked, this,
            [this](bool on) { emit edited(with_solo(*effect_, selection_, on), tr("solo"), {}); });
}

void DetailPanel::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    rebuild();
}

void DetailPanel::setSelection(const std::string& id) {
    selection_ = id;
    rebuild();
}

std::string DetailPanel::lookId() const {
    const Element* element = find_element(*effect_, selection_);
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    return emitter != nullptr ? emitter->look : "";
}

std::string DetailPanel::signature() const {
    std::string text = selection_ + "\n" + lookId();
    for (const Look& look : effect_->looks) {
        text += "\n" + look.id + "\t" + look.name;
    }
    for (const Element& element : effect_->elements) {
        text += "\n" + element.id + "\t" + element.name;
    }
    return text;
}

// Rows are made anew only when other ones are needed, so that an edit never takes a slider out of the hand.
void DetailPanel::rebuild() {
    if (!effect_ || !find_holder(*effect_, selection_)) {
        return;
    }
    if (signature() != built_for_) {
        built_for_ = signature();
        lines_.clear();
        look_note_ = nullptr;
        if (rows_ != nullptr) {
            rows_->deleteLater();
            scroll_layout_->removeWidget(rows_);
        }
        rows_ = new QWidget;
        auto* layout = new QVBoxLayout(rows_);
        layout->setContentsMargins(0, 0, 0, 0);
        layout->setSpacing(1);
        addSection(selection_, {});
        if (const std::string look = lookId(); find_look(*effect_, look) != nullptr) {
            look_note_ = new QLabel(rows_);
            look_note_->setWordWrap(true);
            look_note_->setProperty("ink", "quiet");
            layout->addWidget(look_note_);
            own_look_ = new QToolButton(rows_);
            own_look_->setText(tr("Make it this source's own"));
            own_look_->setToolTip(tr("Gives this source a copy of the look; the others keep theirs."));
            connect(own_look_, &QToolButton::clicked, this, [this] {
                emit edited(with_own_look(*effect_, selection_), tr("make a look its own"), {});
            });
            layout->addWidget(own_look_);
            addSection(look, tr("Look: "));
        }
        layout->addStretch();
        scroll_layout_->addWidget(rows_);
    }
    showValues();
}

QLabel* DetailPanel::addHeading(const QString& text) {
    auto* heading = new QLabel(text.toUpper(), rows_);
    heading->setFont(theme::text_font(7.5, QFont::Medium));
    heading->setProperty("heading", true);
    rows_->layout()->addWidget(heading);
    return heading;
}

void DetailPanel::addSection(const std::string& holder_id, const QString& prefix) {
    const Holder holder = *find_holder(*effect_, holder_id);
    std::string_view group;
    QLabel* heading = nullptr;
    for (const Parameter& parameter : holder.parameters) {
        if (parameter.group != group) {
            group = parameter.group;
            heading = addHeading(prefix + qtext(group));
        }
        lines_.push_back({holder_id, &parameter, heading, nullptr, {}});
    }
}

// Makes the row of a line, in its place below its heading and the rows before it.
void DetailPanel::makeRow(Line& line) {
    auto* layout = static_cast<QVBoxLayout*>(rows_->layout());
    int place = layout->indexOf(line.heading) + 1;
    for (const Line& other : lines_) {
        if (&other == &line) {
            break;
        }
        if (other.heading == line.heading && other.row != nullptr) {
            place = layout->indexOf(other.row) + 1;
        }
    }
    ParameterRow* row = ParameterRow::make(*line.parameter, rows_);
    line.row = row;
    row->setEffect(*effect_);
    row->setModulatorNames(*effect_, line.holder);
    row->setFolder(folder_);
    layout->insertWidget(place, row);

    const std::string holder_id = line.holder;
    // What a row has been used for it may show otherwise than the effect has it: its value is shown anew.
    const auto forget_shown = [this, row] {
        for (Line& each : lines_) {
            if (each.row == row) {
                each.shown.reset();
            }
        }
    };
    connect(row, &ParameterRow::edited, this,
            [this, holder_id, row, forget_shown](const Value& value, bool continues) {
                forget_shown();
                if (!in_gesture_) {
                    keepValue(holder_id, row->parameter());
                }
                in_gesture_ = continues;
                const QString gesture = continues
                                            ? QStringLiteral("%1.%2 %3")
                                                  .arg(QString::fromStdString(holder_id), row->objectName())
                                                  .arg(gestures_)
                                            : QString();
                const Effect changed = with_value(*effect_, holder_id, row->parameter(), value);
                row->setCaution(cautionOf(changed));
                emit edited(changed, tr("change %1").arg(qtext(row->parameter().label).toLower()), gesture);
            });
    connect(row, &ParameterRow::gestureEnded, this, [this, row] {
        ++gestures_;
        in_gesture_ = false;
        row->setCaution(cautionOf(*effect_));
        emit gestureEnded();
    });
    connect(row, &ParameterRow::copyRequested, this, [this, holder_id, row] {
        const Value value = row->parameter().get(find_holder(*effect_, holder_id)->object);
        QApplication::clipboard()->setText(QString::fromStdString(value_text(row->parameter(), value)));
    });
    connect(row, &ParameterRow::noted, this, [this, holder_id, row](const QString& text) {
        // Cut by whole characters to what a file takes.
        QString fitting = text;
        while (fitting.toUtf8().size() > qsizetype(longest_text)) {
            fitting.chop(1);
        }
        emit edited(with_note(*effect_, holder_id, row->parameter().key, fitting.toStdString()),
                    tr("note on %1").arg(qtext(row->parameter().label).toLower()), {});
    });
    connectDrives(row, holder_id);
    connect(row, &ParameterRow::pickRequested, this, &DetailPanel::pickRequested);
    connect(row, &ParameterRow::resetRequested, this, [this, holder_id, row] {
        const Value value = default_of(*find_holder(*effect_, holder_id), row->parameter());
        // An emitter always has a look.
        if (row->parameter().kind != ParameterKind::look) {
            emit edited(with_value(*effect_, holder_id, row->parameter(), value), tr("reset to default"), {});
        }
    });
}

void DetailPanel::connectDrives(ParameterRow* row, const std::string& holder_id) {
    const Parameter& parameter = row->parameter();
    // A new drive swings by a quarter of the slider about what the number is.
    const auto drive_by = [this, holder_id, &parameter](const Effect& effect, int part,
                                                        const std::string& modulator) {
        const float now = part_of(parameter.get(find_holder(effect, holder_id)->object), part);
        const double quarter = (parameter.soft_high - parameter.soft_low) / 4;
        const Drive drive = {holder_id,
                             std::string(parameter.key),
                             part,
                             modulator,
                             float(std::max(double(now) - quarter, parameter.hard_low)),
                             float(std::min(double(now) + quarter, parameter.hard_high)),
                             {}};
        emit edited(with_drive(effect, drive), tr("drive %1").arg(qtext(parameter.label).toLower()), {});
    };
    connect(row, &ParameterRow::driveChosen, this,
            [this, drive_by](int part, const std::string& id) { drive_by(*effect_, part, id); });
    connect(row, &ParameterRow::newDriveChosen, this, [this, drive_by](int part, const std::string& key) {
        std::string id;
        const Effect with_modulator = with_new_element(*effect_, *find_type(key), id);
        drive_by(with_modulator, part, id);
    });
    connect(row, &ParameterRow::driveRemoved, this, [this, holder_id, &parameter](int part) {
        emit edited(without_drive(*effect_, holder_id, parameter.key, part),
                    tr("stop driving %1").arg(qtext(parameter.label).toLower()), {});
    });
    connect(row, &ParameterRow::driveRangeTyped, this, [this](const Drive& drive) {
        emit edited(with_drive(*effect_, drive), tr("change a drive's range"), {});
    });
    connect(row, &ParameterRow::ownModulatorRequested, this, [this](const Drive& drive) {
        std::string id;
        emit edited(with_own_modulator(*effect_, drive, id), tr("make a modulator its own"), {});
    });
    connect(row, &ParameterRow::modulatorRequested, this, &DetailPanel::selectRequested);
}

// What an edit would come to that is more than a limit allows, where it was less before: said at the slider,
// while it is still held.
QString DetailPanel::cautionOf(const Effect& changed) const {
    if (const auto refusal = whole_refusal(changed)) {
        return tr("Not done: %1.").arg(QString::fromStdString(*refusal));
    }
    for (size_t i = 0; i < changed.elements.size(); ++i) {
        if (changed.elements[i].id != selection_) {
            continue;
        }
        if (const auto excess = expected_excess(changed, i, expected_counts(changed)[i])) {
            return tr("Expected: %1.").arg(QString::fromStdString(*excess));
        }
    }
    const auto over = expected_over_budget(changed);
    return over ? tr("Expected: %1.").arg(QString::fromStdString(*over)) : QString();
}

// The other sources that have the same look.
QStringList DetailPanel::lookSharers() const {
    const std::string id = lookId();
    QStringList others;
    for (const Element& element : effect_->elements) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        if (emitter != nullptr && emitter->look == id && element.id != selection_) {
            others << QString::fromStdString(element.name);
        }
    }
    return others;
}

QString DetailPanel::lookTitle() const {
    const QStringList others = lookSharers();
    const QString name = QString::fromStdString(find_look(*effect_, lookId())->name);
    return others.isEmpty()
               ? tr("%1 \u2014 only this source uses this look.").arg(name)
               : tr("%1 \u2014 shared with %2: a change here shows there too.").arg(name, others.join(", "));
}

void DetailPanel::showValues() {
    const Holder holder = *find_holder(*effect_, selection_);
    const Element* element = find_element(*effect_, selection_);
    name_->setReadOnly(element == nullptr);
    if (!name_->isModified() || !name_->hasFocus()) {
        name_->setText(QString::fromStdString(holder.name));
        name_->setCursorPosition(0);
    }
    type_->setText(element != nullptr ? qtext(type_of(element->body).label) : QString());
    mute_->setVisible(element != nullptr);
    solo_->setVisible(element != nullptr && can_be_soloed(*element));
    if (element != nullptr) {
        mute_->setChecked(element->muted);
        solo_->setChecked(element->solo);
    }
    if (look_note_ != nullptr) {
        look_note_->setText(lookTitle());
        own_look_->setVisible(!lookSharers().isEmpty());
    }
    showRows();
    showWarning();
}

// Only what does something as things are is shown, and only what has changed is shown anew.
void DetailPanel::showRows() {
    std::map<QLabel*, bool> has_rows;
    for (Line& line : lines_) {
        const Holder holder = *find_holder(*effect_, line.holder);
        const bool applies = does_apply(*line.parameter, holder.object);
        has_rows[line.heading] = has_rows[line.heading] || applies;
        if (applies && line.row == nullptr) {
            makeRow(line);
        }
        if (line.row == nullptr) {
            continue;
        }
        line.row->setVisible(applies);
        const Value value = line.parameter->get(holder.object);
        if (applies) {
            line.row->setChanged(value != default_of(holder, *line.parameter));
            line.row->setEarlier(earlierValues(line.holder, *line.parameter, value));
            const Note* note = find_note(*effect_, line.holder, line.parameter->key);
            line.row->setNote(note != nullptr ? QString::fromStdString(note->text) : QString());
        }
        if (applies && line.shown != value) {
            line.row->setValue(value);
            line.shown = value;
        }
        line.row->setDrives(*effect_, line.holder);
        const bool cautions = line.row->caution() != nullptr && !line.row->caution()->text().isEmpty();
        if (cautions && !in_gesture_) {
            line.row->setCaution(cautionOf(*effect_));
        }
    }
    for (const auto& [heading, shown] : has_rows) {
        heading->setVisible(shown);
    }
}

// Keeps the value that a parameter has before an edit, to go back to.
void DetailPanel::keepValue(const std::string& holder_id, const Parameter& parameter) {
    constexpr size_t most = 8;
    std::vector<Value>& kept = kept_values_[holder_id + "." + std::string(parameter.key)];
    const Value now = parameter.get(find_holder(*effect_, holder_id)->object);
    std::erase(kept, now);
    kept.insert(kept.begin(), now);
    kept.resize(std::min(kept.size(), most));
}

std::vector<Value> DetailPanel::earlierValues(const std::string& holder_id, const Parameter& parameter,
                                              const Value& now) const {
    const auto kept = kept_values_.find(holder_id + "." + std::string(parameter.key));
    std::vector<Value> values = kept != kept_values_.end() ? kept->second : std::vector<Value>();
    std::erase(values, now);
    return values;
}

// What the artist should know before it hurts: files that cannot be read, and more particles than there is
// room for.
void DetailPanel::showWarning() {
    QString text = file_problem_;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        if (effect_->elements[i].id != selection_) {
            continue;
        }
        const auto excess = expected_excess(*effect_, i, expected_counts(*effect_)[i]);
        if (excess) {
            text += (text.isEmpty() ? "" : "\n") + tr("Expected: %1.").arg(QString::fromStdString(*excess));
        }
    }
    warning_->setText(text);
    warning_->setVisible(!text.isEmpty());
}

QString DetailPanel::modulatorText(const Readings& readings) const {
    QString text = tr("Muted: what it drives keeps its own value.");
    for (const ModulatorValue& value : readings.modulators) {
        if (value.id == selection_) {
            text = tr("Is at %1 now.").arg(double(value.value), 0, 'f', 2);
        }
    }
    QStringList driven;
    for (const Drive& drive : effect_->drives) {
        if (drive.modulator == selection_) {
            const Holder holder = *find_holder(*effect_, drive.holder);
            driven << QString::fromStdString(holder.name) + ": " +
                          qtext(holder.find(drive.parameter)->label).toLower();
        }
    }
    return text + (driven.isEmpty()
                       ? tr(" It drives nothing yet: press the socket beside a number and choose it.")
                       : tr(" It drives %1.").arg(driven.join(", ")));
}

void DetailPanel::setFiles(const QString& folder, const QString& problem) {
    folder_ = folder;
    file_problem_ = problem;
    for (const Line& line : lines_) {
        if (line.row != nullptr) {
            line.row->setFolder(folder);
        }
    }
    if (effect_) {
        showWarning();
    }
}

void DetailPanel::setReadings(const Readings& readings, const SmoothedCosts& costs) {
    for (const Line& line : lines_) {
        if (line.row != nullptr) {
            line.row->setSpread(readings.spread);
            line.row->setModulators(readings.modulators);
        }
    }
    const Element* element = effect_ ? find_element(*effect_, selection_) : nullptr;
    if (element == nullptr) {
        costs_->setText(
            tr("The picture costs %1 ms: stage %2, its focus %3, dots %4, bloom %5, glare %6, tones "
               "and grade %7.")
                .arg(readings.draw.total_ms, 0, 'f', 1)
                .arg(readings.draw.stage_ms, 0, 'f', 1)
                .arg(readings.draw.focus_ms, 0, 'f', 1)
                .arg(readings.draw.dots_ms, 0, 'f', 1)
                .arg(readings.draw.bloom_ms, 0, 'f', 1)
                .arg(readings.draw.glare_ms, 0, 'f', 1)
                .arg(readings.draw.tone_ms, 0, 'f', 1));
        return;
    }
    if (!can_be_soloed(*element)) {
        costs_->setText(family_of(element->body) == Family::mover
                            ? tr("A mover costs next to nothing; what rides on it costs as ever.")
                            : modulatorText(readings));
        return;
    }
    const double ms = costs.element_ms(element->id);
    QString text = tr("Takes %1 ms of the step now, %2 % of the limit.")
                       .arg(ms, 0, 'f', 2)
                       .arg(100 * ms / effect_->budget.frame_ms, 0, 'f', 1);
    if (const ElementMeter* meter = readings.find(element->id);
        meter != nullptr && family_of(element->body) == Family::source) {
        text += tr("\n%1 alive, %2 expected, %3 born, %4 could not be born.")
                    .arg(meter->live)
                    .arg(expectedCount(element->id))
                    .arg(meter->born)
                    .arg(meter->refused);
    }
    costs_->setText(text);
}

QString DetailPanel::expectedCount(const std::string& id) const {
    const std::vector<ExpectedCount> counts = expected_counts(*effect_);
    for (size_t i = 0; i < counts.size(); ++i) {
        if (effect_->elements[i].id == id) {
            const bool for_ever = std::get<Emitter>(effect_->elements[i].body).for_ever;
            return for_ever ? tr("as many as there is room for")
                            : QString::number(qint64(std::min(counts[i].live, 1e15)));
        }
    }
    return {};
}

QWidget* DetailPanel::firstField() const {
    return name_;
}

void DetailPanel::rename() {
    name_->setFocus();
    name_->selectAll();
}

void DetailPanel::openEditor(const std::string& key) {
    for (const Line& line : lines_) {
        if (line.parameter->key == key && line.row != nullptr) {
            line.row->openEditor();
            // Once the window has laid it out.
            QTimer::singleShot(100, line.row, [this, row = line.row] { scroll_->ensureWidgetVisible(row); });
        }
    }
}

ParameterRow* DetailPanel::row(const std::string& holder_id, const std::string& key) {
    for (Line& line : lines_) {
        if (line.holder == holder_id && line.parameter->key == key) {
            if (line.row == nullptr) {
                makeRow(line);
            }
            return line.row;
        }
    }
    return nullptr;
}

} // namespace ember
