#include "desktop/board/board_panel.h"

#include "core/effect/parameter.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>

namespace ember {

namespace {

QToolButton* adder(const QString& text, const QString& tip, QWidget* parent) {
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setToolTip(tip);
    button->setProperty("quiet", true);
    return button;
}

} // namespace

BoardPanel::BoardPanel(QWidget* parent)
    : QWidget(parent), board_(new Board),
      add_source_(adder(tr("+ source"), tr("Add something that makes matter."), this)),
      add_influence_(
          adder(tr("+ influence"), tr("Add something that acts on sources: a force or a collider."), this)),
      add_motion_(
          adder(tr("+ more"),
                tr("Add a mover, that carries a place to ride on, a light, smoke, a modulator, that drives "
                   "numbers, or a trigger, that does something when something happens."),
                this)),
      filter_(new QLineEdit(this)), stage_(new QToolButton(this)), budget_(new QToolButton(this)) {
    const auto asks = [this](QToolButton* button, Family first, Family last) {
        connect(button, &QToolButton::clicked, this, [this, first, last] { emit addAsked(first, last); });
    };
    asks(add_source_, Family::source, Family::source);
    asks(add_influence_, Family::force, Family::breaking);
    asks(add_motion_, Family::mover, Family::trigger);
    stage_->setText(tr("Stage"));
    stage_->setToolTip(tr("Sun, sky, camera and finishing of the picture."));
    budget_->setText(tr("Budget"));
    budget_->setToolTip(tr("The limits that costs are held against."));
    for (QToolButton* button : {stage_, budget_}) {
        button->setCheckable(true);
    }
    connect(stage_, &QToolButton::clicked, this, [this] { emit selected(std::string(stage_id)); });
    connect(budget_, &QToolButton::clicked, this, [this] { emit selected(std::string(budget_id)); });
    connect(board_, &Board::selected, this, &BoardPanel::selected);

    title_ = new QLabel(tr("Board"), this);
    title_->setFont(theme::text_font(10, QFont::DemiBold));
    auto* head = new QHBoxLayout;
    head->setContentsMargins(14, 1, 6, 0);
    head->setSpacing(2);
    head->addWidget(title_);
    head->addStretch();
    head->addWidget(add_source_);
    head->addWidget(add_influence_);
    head->addWidget(add_motion_);
    auto* foot = new QHBoxLayout;
    foot->setContentsMargins(12, 2, 8, 2);
    foot->setSpacing(5);
    foot->addWidget(stage_);
    foot->addWidget(budget_);
    filter_->setPlaceholderText(tr("filter rows"));
    filter_->setToolTip(tr("Only rows with these letters in their names; empty shows all. A press on a "
                           "heading hides its rows."));
    filter_->setAccessibleName(tr("Filter"));
    filter_->setClearButtonEnabled(true);
    connect(filter_, &QLineEdit::textChanged, board_, &Board::setFilter);
    foot->addWidget(filter_, 1);

    auto* scroll = scroll_ = new QScrollArea(this);
    scroll->setWidget(board_);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->viewport()->setAutoFillBackground(false);

    const auto seen = [this, scroll] {
        board_->setSeenFrom({scroll->horizontalScrollBar()->value(), scroll->verticalScrollBar()->value()});
    };
    connect(scroll->horizontalScrollBar(), &QScrollBar::valueChanged, this, seen);
    connect(scroll->verticalScrollBar(), &QScrollBar::valueChanged, this, seen);

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addLayout(head);
    layout->addWidget(scroll, 1);
    layout->addLayout(foot);
}

// The title gives way to the buttons.
void BoardPanel::resizeEvent(QResizeEvent* event) {
    int needed = title_->sizeHint().width() + 24; // margins and gaps
    for (const QToolButton* button : {add_source_, add_influence_, add_motion_}) {
        needed += button->sizeHint().width();
    }
    title_->setVisible(needed <= width());
    QWidget::resizeEvent(event);
}

void BoardPanel::setSelection(const std::string& id) {
    board_->setSelection(id);
    if (const auto to = board_->hiddenRow(id, scroll_->viewport()->height())) {
        scroll_->verticalScrollBar()->setValue(*to);
    }
    stage_->setChecked(id == stage_id);
    budget_->setChecked(id == budget_id);
}

} // namespace ember
