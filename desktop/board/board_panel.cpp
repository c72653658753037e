#include "desktop/board/board_panel.h"

#include "core/effect/parameter.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

namespace ember {

namespace {

QToolButton* adder(const QString& text, const QString& tip, QWidget* parent) {
    auto* button = new QToolButton(parent);
    button->setText(text);
    button->setToolTip(tip);
    button->setProperty("quiet", true);
    button->setPopupMode(QToolButton::InstantPopup);
    button->setMenu(new QMenu(button));
    button->menu()->setToolTipsVisible(true);
    return button;
}

} // namespace

BoardPanel::BoardPanel(QWidget* parent)
    : QWidget(parent), board_(new Board),
      add_source_(adder(tr("+ source"), tr("Add something that makes matter."), this)),
      add_influence_(
          adder(tr("+ influence"), tr("Add something that acts on sources: a force or a collider."), this)),
      add_motion_(adder(
          tr("+ motion"),
          tr("Add a mover, that carries a place to ride on, or a modulator, that drives numbers."), this)),
      filter_(new QLineEdit(this)), stage_(new QToolButton(this)), budget_(new QToolButton(this)) {
    Family last = Family::source;
    for (const ElementType& type : element_types()) {
        const Family family = family_of(type.prototype);
        QToolButton* button = family == Family::source ? add_source_
                              : family < Family::mover ? add_influence_
                                                       : add_motion_;
        // Colliders stand apart from forces, modulators from movers.
        const bool begins_part =
            family != last && (family == Family::collider || family == Family::modulator);
        if (begins_part) {
            button->menu()->addSeparator();
        }
        last = family;
        QAction* action = button->menu()->addAction(qtext(type.label));
        action->setToolTip(qtext(type.help));
        connect(action, &QAction::triggered, this, [this, key = qtext(type.key)] { emit addRequested(key); });
    }
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

    auto* title = new QLabel(tr("Board"), this);
    title->setFont(theme::text_font(10.5, QFont::DemiBold));
    auto* head = new QHBoxLayout;
    head->setContentsMargins(14, 8, 8, 0);
    head->addWidget(title, 1);
    head->addWidget(add_source_);
    head->addWidget(add_influence_);
    head->addWidget(add_motion_);
    auto* foot = new QHBoxLayout;
    foot->setContentsMargins(14, 4, 8, 8);
    foot->addWidget(stage_);
    foot->addWidget(budget_);
    filter_->setPlaceholderText(tr("filter rows"));
    filter_->setToolTip(tr("Only rows with these letters in their names; empty shows all. A press on a "
                           "heading hides its rows."));
    filter_->setAccessibleName(tr("Filter"));
    filter_->setClearButtonEnabled(true);
    connect(filter_, &QLineEdit::textChanged, board_, &Board::setFilter);
    foot->addWidget(filter_, 1);

    auto* scroll = new QScrollArea(this);
    scroll->setWidget(board_);
    scroll->setWidgetResizable(true);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->viewport()->setAutoFillBackground(false);

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addLayout(head);
    layout->addWidget(scroll, 1);
    layout->addLayout(foot);
}

void BoardPanel::setSelection(const std::string& id) {
    board_->setSelection(id);
    stage_->setChecked(id == stage_id);
    budget_->setChecked(id == budget_id);
}

} // namespace ember
