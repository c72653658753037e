#include "desktop/takes/takes_dialog.h"

#include "desktop/theme.h"

#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace ember {

TakesDialog::TakesDialog(std::vector<Take> takes, EffectPtr now, QWidget* parent)
    : QDialog(parent), takes_(std::move(takes)), now_(std::move(now)), list_(new QListWidget(this)),
      name_(new QLineEdit(this)), note_(new QLineEdit(this)), words_(new QLabel(this)),
      play_(new QPushButton(tr("Play it again"), this)), mark_(new QPushButton(this)),
      delete_(new QPushButton(tr("Delete"), this)) {
    setWindowTitle(tr("Takes"));
    resize(560, 480);
    list_->setIconSize({160, 100});
    list_->setAccessibleName(tr("Takes"));
    list_->setToolTip(
        tr("Runs that were kept: with the effect as it was, what was turned meanwhile, and what the "
           "pointer and the keys did. Double-click plays one again."));
    name_->setMaxLength(60);
    name_->setAccessibleName(tr("Name of the take"));
    note_->setMaxLength(int(longest_text));
    note_->setAccessibleName(tr("Note on the take"));
    words_->setProperty("ink", "quiet");
    words_->setWordWrap(true);
    play_->setToolTip(
        tr("From its start; behind its end it goes on live. The effect becomes what it was then: that "
           "can be undone."));
    mark_->setToolTip(tr("A star, to find it again."));
    auto* close = new QPushButton(tr("Close"), this);
    for (QPushButton* button : {play_, mark_, delete_, close}) {
        button->setAutoDefault(false); // Enter hands a name in
    }
    auto* form = new QFormLayout;
    form->addRow(tr("Name"), name_);
    form->addRow(tr("Note"), note_);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(play_);
    buttons->addWidget(mark_);
    buttons->addWidget(delete_);
    buttons->addStretch(1);
    buttons->addWidget(close);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(list_, 1);
    layout->addWidget(words_);
    layout->addLayout(form);
    layout->addLayout(buttons);

    connect(list_, &QListWidget::currentRowChanged, this, &TakesDialog::showChosen);
    connect(list_, &QListWidget::itemDoubleClicked, play_, &QPushButton::click);
    connect(play_, &QPushButton::clicked, this, [this] {
        if (chosen() != nullptr) {
            to_play_ = size_t(list_->currentRow());
            accept();
        }
    });
    connect(mark_, &QPushButton::clicked, this, [this] {
        if (Take* take = chosen()) {
            take->is_marked = !take->is_marked;
            changed_ = true;
            fill();
        }
    });
    connect(delete_, &QPushButton::clicked, this, [this] {
        if (chosen() != nullptr) {
            takes_.erase(takes_.begin() + list_->currentRow());
            changed_ = true;
            fill();
        }
    });
    const auto takes_over = [this](QLineEdit* field, std::string Take::*text) {
        connect(field, &QLineEdit::editingFinished, this, [this, field, text] {
            Take* take = chosen();
            const std::string typed = field->text().trimmed().toStdString();
            if (take != nullptr && take->*text != typed) {
                take->*text = typed;
                changed_ = true;
                fill();
            }
        });
    };
    takes_over(name_, &Take::name);
    takes_over(note_, &Take::note);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    fill();
    list_->setCurrentRow(list_->count() - 1);
}

Take* TakesDialog::chosen() {
    const int row = list_->currentRow();
    return row >= 0 && size_t(row) < takes_.size() ? &takes_[size_t(row)] : nullptr;
}

QString TakesDialog::wordsOf(const Take& take) const {
    const uint64_t warm_up =
        uint64_t(std::llround(double(take.effect_at(0)->stage.warm_up) / take.inputs.step_s()));
    const double seconds = double(take.steps() - std::min(warm_up, take.steps())) * take.inputs.step_s();
    QString text = tr("%1 s, seed %2, worst frame %3 ms, up to %4 particles; kept %5")
                       .arg(seconds, 0, 'f', 1)
                       .arg(take.effect_at(0)->seed)
                       .arg(take.worst_frame_ms, 0, 'f', 1)
                       .arg(theme::short_count(double(take.most_particles)))
                       .arg(QString::fromStdString(take.kept_at));
    if (take.effects.size() > 1) {
        text += tr("; %1 edits while it played").arg(take.effects.size() - 1);
    }
    if (*std::prev(take.effects.end())->second != *now_) {
        text += tr("; the effect is another now");
    }
    return text;
}

void TakesDialog::fill() {
    const int row = list_->currentRow();
    const QSignalBlocker blocker(list_);
    list_->clear();
    for (const Take& take : takes_) {
        QPixmap picture;
        picture.loadFromData(reinterpret_cast<const uchar*>(take.picture.data()), uint(take.picture.size()));
        auto* item = new QListWidgetItem(
            picture, (take.is_marked ? QStringLiteral("\u2605 ") : QString()) +
                         QString::fromStdString(take.name) + "\n" + wordsOf(take) +
                         (take.note.empty() ? QString() : "\n" + QString::fromStdString(take.note)));
        list_->addItem(item);
    }
    list_->setWordWrap(true);
    list_->setCurrentRow(std::min(row, list_->count() - 1));
    showChosen();
}

void TakesDialog::showChosen() {
    const Take* take = chosen();
    for (QWidget* each :
         {static_cast<QWidget*>(name_), static_cast<QWidget*>(note_), static_cast<QWidget*>(play_),
          static_cast<QWidget*>(mark_), static_cast<QWidget*>(delete_)}) {
        each->setEnabled(take != nullptr);
    }
    name_->setText(take != nullptr ? QString::fromStdString(take->name) : QString());
    note_->setText(take != nullptr ? QString::fromStdString(take->note) : QString());
    mark_->setText(take != nullptr && take->is_marked ? tr("Without the mark") : tr("Mark"));
    words_->setText(takes_.empty() ? tr("No run has been kept yet: play, then Ctrl+T.") : QString());
    words_->setVisible(takes_.empty());
}

} // namespace ember
