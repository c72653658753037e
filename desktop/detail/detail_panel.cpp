#include "desktop/detail/detail_panel.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/cost_ranking.h"
#include "desktop/detail/detail_words.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QScrollBar>
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
    : QWidget(parent), filter_(new QLineEdit(this)), sections_(new QToolButton(this)),
      name_(new QLineEdit(this)), type_(new QLabel(this)),
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
    title->addWidget(mute_);
    title->addWidget(solo_);

    auto* inside = new QWidget;
    scroll_layout_->setContentsMargins(0, 0, 4, 0);
    inside->setLayout(scroll_layout_);
    inside->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred); // one wide row must not widen all
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    scroll_->setWidget(inside);

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 6, 8, 8);
    layout->setSpacing(4);
    filter_->setPlaceholderText(tr("filter parameters"));
    filter_->setAccessibleName(tr("Filter parameters"));
    filter_->setToolTip(tr("Only parameters with these letters in their names; empty shows all."));
    filter_->setClearButtonEnabled(true);
    connect(filter_, &QLineEdit::textChanged, this, [this] {
        if (effect_ && rows_ != nullptr) {
            showRows();
        }
    });
    sections_->setText(tr("Sections"));
    sections_->setToolTip(tr("Go to a section. A press on a section's heading folds it."));
    sections_->setPopupMode(QToolButton::InstantPopup);
    sections_->setMenu(new QMenu(sections_));
    connect(sections_->menu(), &QMenu::aboutToShow, this, &DetailPanel::fillSections);
    auto* finding = new QHBoxLayout;
    finding->addWidget(type_);
    finding->addWidget(filter_, 1);
    finding->addWidget(sections_);
    layout->addLayout(title);
    layout->addLayout(finding);
    layout->addWidget(scroll_, 1);
    // What comes and goes stands below the rows, so that none of them moves under the hand.
    layout->addWidget(warning_);
    layout->addWidget(costs_);

    connect(name_, &QLineEdit::editingFinished, this, &DetailPanel::takeName);
    connect(name_, &QLineEdit::returnPressed, this, [this] {
        takeName();
        leaveName();
    });
    name_->installEventFilter(this);
    connect(mute_, &QToolButton::clicked, this, [this](bool on) {
        emit edited(with_muted(*effect_, selection_, on), on ? tr("mute") : tr("unmute"), {});
    });
    connect(solo_, &QToolButton::clicked, this,
            [this](bool on) { emit edited(with_solo(*effect_, selection_, on), tr("solo"), {}); });
}

void DetailPanel::takeName() {
    const Element* element = find_element(*effect_, selection_);
    const std::string typed = name_->text().trimmed().toStdString();
    const Texture* texture = find_texture(*effect_, selection_);
    if (element != nullptr && !typed.empty() && typed != element->name) {
        emit edited(with_name(*effect_, selection_, typed), tr("rename"), {});
    } else if (texture != nullptr && !typed.empty() && typed != texture->name) {
        emit edited(with_texture_name(*effect_, selection_, typed), tr("rename"), {});
    }
    showValues();
}

// The keys are the window's again.
void DetailPanel::leaveName() {
    name_->setModified(false);
    name_->deselect();
    name_->clearFocus();
    showValues();
}

bool DetailPanel::eventFilter(QObject* watched, QEvent* event) {
    const auto* heading = qobject_cast<QLabel*>(watched);
    if (heading != nullptr && event->type() == QEvent::MouseButtonPress) {
        const QString section = heading->property("section").toString();
        folded_.erase(section) == 0 ? void(folded_.insert(section)) : void();
        showRows();
        return true;
    }
    const bool escapes = watched == name_ && event->type() == QEvent::KeyPress &&
                         static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape;
    if (escapes) {
        const Holder holder = *find_holder(*effect_, selection_);
        name_->setText(QString::fromStdString(holder.name));
        leaveName();
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

void DetailPanel::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    rebuild();
}

void DetailPanel::setSelection(const std::string& id) {
    const bool is_other = id != selection_;
    if (is_other) {
        keepScrollPlace();
    }
    selection_ = id;
    rebuild();
    if (is_other && effect_) {
        // Once its rows are laid out.
        QTimer::singleShot(
            0, this, [this] { scroll_->verticalScrollBar()->setValue(scroll_places_[kindOf(selection_)]); });
    }
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
    for (const Texture& texture : effect_->textures) {
        text += "\n" + texture.id + "\t" + texture.name;
    }
    for (const Element& element : effect_->elements) {
        text += "\n" + element.id + "\t" + element.name;
    }
    // What a trigger does decides who can be told to.
    const Element* selected = find_element(*effect_, selection_);
    if (const auto* trigger = selected != nullptr ? std::get_if<Trigger>(&selected->body) : nullptr) {
        text += "\n" + std::to_string(int(trigger->then)) + trigger->what;
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
        ranking_ = nullptr;
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
        if (selection_ == budget_id) {
            ranking_ = new CostRanking(rows_);
            connect(ranking_, &CostRanking::selected, this, &DetailPanel::selectRequested);
            connect(ranking_, &CostRanking::switched, this, [this](const std::string& id) {
                const bool muted = !find_element(*effect_, id)->muted;
                emit edited(with_muted(*effect_, id, muted), muted ? tr("mute") : tr("unmute"), {});
            });
            layout->addWidget(ranking_);
        }
        layout->addStretch();
        scroll_layout_->addWidget(rows_);
    }
    showValues();
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
    row->setEffect(*effect_, line.holder);
    row->setModulatorNames(*effect_, line.holder);
    row->setFolder(folder_);
    layout->insertWidget(place, row);

    const std::string holder_id = line.holder;
    connect(row, &ParameterRow::tryAsked, this,
            [this, row, holder_id] { emit tryAsked(holder_id, std::string(row->parameter().key)); });
    connect(row, &ParameterRow::compareAsked, this,
            [this, row, holder_id] { emit compareAsked(holder_id, std::string(row->parameter().key)); });
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
                // What is keyed is keyed anew where it is now: turned while it plays, that records.
                const std::string_view key = row->parameter().key;
                const Effect changed = row->isKeyed()
                                           ? with_key(*effect_, holder_id, key, now_s_, value)
                                           : with_value(*effect_, holder_id, row->parameter(), value);
                showCaution(row, changed);
                emit edited(changed, tr("change %1").arg(qtext(row->parameter().label).toLower()), gesture);
            });
    connect(row, &ParameterRow::gestureEnded, this, [this, row] {
        ++gestures_;
        in_gesture_ = false;
        showCaution(row, *effect_);
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
    connectKeys(row, holder_id);
    connect(row, &ParameterRow::pickRequested, this, &DetailPanel::pickRequested);
    connect(row, &ParameterRow::resetRequested, this, [this, holder_id, row] {
        const Value value = default_of(*find_holder(*effect_, holder_id), row->parameter());
        // An emitter always has a look.
        if (row->parameter().kind != ParameterKind::look) {
            emit edited(with_value(*effect_, holder_id, row->parameter(), value), tr("reset to default"), {});
        }
    });
}

void DetailPanel::connectKeys(ParameterRow* row, const std::string& holder_id) {
    const Parameter& parameter = row->parameter();
    const QString name = qtext(parameter.label).toLower();
    connect(row, &ParameterRow::keyAsked, this, [this, holder_id, name, &parameter] {
        const Track* track = find_track(*effect_, holder_id, parameter.key);
        const Value value = track != nullptr ? value_at(*track, parameter, now_s_)
                                             : parameter.get(find_holder(*effect_, holder_id)->object);
        emit edited(with_key(*effect_, holder_id, parameter.key, now_s_, value), tr("key %1").arg(name), {});
    });
    connect(row, &ParameterRow::keyRemoved, this, [this, holder_id, &parameter] {
        emit edited(without_key(*effect_, holder_id, parameter.key, now_s_), tr("take a key away"), {});
    });
    connect(row, &ParameterRow::trackRemoved, this, [this, holder_id, name, &parameter] {
        emit edited(without_track(*effect_, holder_id, parameter.key), tr("stop keying %1").arg(name), {});
    });
}

Value DetailPanel::valueOf(const Line& line, const Holder& holder) const {
    const Track* track = find_track(*effect_, line.holder, line.parameter->key);
    return track != nullptr ? value_at(*track, *line.parameter, now_s_) : line.parameter->get(holder.object);
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
    connect(row, &ParameterRow::textureRequested, this, &DetailPanel::textureRequested);
}

// Marks a row, and says at the foot, what an edit with it comes to that is more than a limit allows, while it
// is still held. Other rows keep silent about what was so before.
void DetailPanel::showCaution(ParameterRow* row, const Effect& edited_effect) {
    const bool says = !row->caution().isEmpty();
    if (!says && &edited_effect == effect_.get()) {
        return; // as nearly always
    }
    const QString words = caution_words(edited_effect, selection_);
    row->setCaution(says || words != caution_words(*effect_, selection_) ? words : QString());
    showWarning();
}

void DetailPanel::showValues() {
    const Holder holder = *find_holder(*effect_, selection_);
    const Element* element = find_element(*effect_, selection_);
    name_->setReadOnly(element == nullptr && find_texture(*effect_, selection_) == nullptr);
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
        look_note_->setText(look_words(*effect_, *element));
        own_look_->setVisible(!look_sharers(*effect_, *element).isEmpty());
    }
    showRows();
    showWarning();
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
    QStringList lines = {file_problem_, caution_words(*effect_, selection_)};
    for (const Line& line : lines_) {
        if (line.row != nullptr && !line.row->isHidden()) {
            lines << line.row->caution();
        }
    }
    lines.removeAll(QString());
    lines.removeDuplicates();
    warning_->setText(lines.join('\n'));
    warning_->setVisible(!lines.isEmpty());
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

void DetailPanel::setDriven(const Readings& readings) {
    setNow(readings.time_s);
    for (Line& line : lines_) {
        if (line.row == nullptr) {
            continue;
        }
        line.row->setSpread(readings.spread);
        line.row->setTrack(effect_ ? find_track(*effect_, line.holder, line.parameter->key) : nullptr,
                           now_s_);
        if (line.row->isKeyed() && !in_gesture_) {
            const Value value = valueOf(line, *find_holder(*effect_, line.holder));
            if (line.shown != value) {
                line.row->setValue(value);
                line.shown = value;
            }
        }
        line.row->setModulators(readings.modulators);
    }
}

void DetailPanel::setFigures(const Readings& readings, const SmoothedCosts& costs) {
    if (ranking_ != nullptr) {
        ranking_->setCosts(effect_, readings, costs);
    }
    if (effect_) {
        costs_->setText(cost_words(*effect_, selection_, readings, costs));
    }
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
