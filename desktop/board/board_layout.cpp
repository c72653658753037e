// Where things stand on the board.
#include "desktop/board/board.h"

#include "core/effect/edit.h"
#include "desktop/theme.h"

#include <QFontMetrics>

#include <algorithm>

namespace ember {

namespace {

// What moves, shines and drives stands under one heading.
Family section_of(Family family) {
    return family == Family::light || family == Family::modulator ? Family::mover : family;
}

} // namespace

bool Board::has_links(const Element& each) {
    return reach_of(each.body) != nullptr;
}

bool Board::has_column(const Element& each) {
    return takes_links(each.body);
}

// Of the panel, less the room of a scroll bar, whether there is one or not: what is laid out must not make
// bars come and go.
int Board::seenWidth() const {
    constexpr int scroll_bar = 13;
    const QWidget* area = parentWidget() != nullptr ? parentWidget()->parentWidget() : nullptr;
    return area != nullptr ? area->width() - scroll_bar : width();
}

QRect Board::headingRect(Family family, const std::string& group) const {
    for (const Heading& heading : headings_) {
        if (heading.family == family && heading.group == group) {
            return {corner_.x(), heading.top, m_.name_width, m_.heading_height};
        }
    }
    return {};
}

const Board::Heading* Board::headingAt(QPoint place) const {
    for (const Heading& heading : headings_) {
        if (place.y() >= corner_.y() + m_.header_height &&
            headingRect(heading.family, heading.group).contains(place)) {
            return &heading;
        }
    }
    return nullptr;
}

// Rows one below the other, chips side by side as far as they go.
void Board::addRows(const std::vector<size_t>& elements, int& top) {
    const QFontMetrics metrics(theme::text_font(8.5));
    const int seen = seenWidth();
    int left = m_.left_margin; // of the next chip
    const auto end_chips = [&] {
        if (left > m_.left_margin) {
            top += m_.chip_height + m_.chip_gap;
            left = m_.left_margin;
        }
    };
    for (const size_t i : elements) {
        const Element& each = effect_->elements[i];
        if (has_links(each)) {
            end_chips();
            rows_.push_back({i, {0, top, m_.name_width, m_.row_height}});
            top += m_.row_height;
        } else if (const auto* trigger = std::get_if<Trigger>(&each.body)) {
            end_chips();
            const std::vector<Word> words = wordsOf(*trigger, {0, 0}, seen - 48);
            const int height = words.empty() ? m_.row_height : words.back().rect.bottom() + 8;
            rows_.push_back({i, {0, top, seen, height}});
            top += height;
        } else {
            // With room for a cost, so that nothing moves once it is known.
            const Family family = family_of(each.body);
            const bool costs = family == Family::smoke || family == Family::light;
            const QString text = nameAndFact(each) + (costs ? QStringLiteral(" \u00b7 0.00 ms") : QString());
            const int wide = std::min(metrics.horizontalAdvance(text) + 22, seen - 28);
            if (left > m_.left_margin && left + wide > seen - m_.right_margin) {
                end_chips();
            }
            rows_.push_back({i, {left, top + 1, wide, m_.chip_height}});
            left += wide + m_.chip_gap;
        }
    }
    end_chips();
}

// The rows of a section or of a group in it, with their heading.
void Board::addSection(const Heading& of, const std::vector<size_t>& elements, int& top) {
    const bool is_collapsed = filter_.isEmpty() && collapsed_.contains({of.family, of.group});
    Heading heading = of;
    heading.top = top;
    std::vector<size_t> shown;
    for (const size_t i : elements) {
        const bool fits =
            QString::fromStdString(effect_->elements[i].name).contains(filter_, Qt::CaseInsensitive);
        if (fits && !is_collapsed) {
            shown.push_back(i);
        } else {
            ++heading.hidden;
        }
    }
    headings_.push_back(heading);
    top += m_.heading_height;
    addRows(shown, top);
}

void Board::layOut() {
    rows_.clear();
    columns_.clear();
    headings_.clear();
    laid_out_for_ = seenWidth();
    std::vector<size_t> sources;
    // By section, those in no group first, then group by group in the order of the effect.
    std::vector<std::pair<Heading, std::vector<size_t>>> sections;
    size_t rows = 0;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        const Element& each = effect_->elements[i];
        if (has_column(each)) {
            sources.push_back(i);
            continue;
        }
        rows += has_links(each) ? 1 : 0;
        const Family family = section_of(family_of(each.body));
        const auto is_its = [&](const auto& section) {
            return section.first.family == family && section.first.group == each.group;
        };
        auto section = std::find_if(sections.begin(), sections.end(), is_its);
        if (section == sections.end()) {
            section = sections.insert(sections.end(), {{family, each.group, 0, 0}, {}});
        }
        section->second.push_back(i);
    }
    std::stable_sort(sections.begin(), sections.end(), [](const auto& a, const auto& b) {
        const bool a_grouped = !a.first.group.empty(), b_grouped = !b.first.group.empty();
        return std::pair(a.first.family, a_grouped) < std::pair(b.first.family, b_grouped);
    });
    m_ = BoardMeasures::of(rows, sources.size(), laid_out_for_);
    for (size_t k = 0; k < sources.size(); ++k) {
        // The first one's line goes farthest, so that no line crosses another.
        columns_.push_back({sources[k], 4 + int(k) * m_.stair_line,
                            m_.name_width + int(sources.size() - 1 - k) * m_.column_width});
    }
    int top = m_.header_height;
    for (const auto& [heading, elements] : sections) {
        addSection(heading, elements, top);
    }
    bottom_ = top;
    focus_row_ = std::min(focus_row_, rows_.empty() ? 0 : rows_.size() - 1);
    focus_column_ = std::min(focus_column_, columns_.empty() ? 0 : columns_.size() - 1);
    updateGeometry();
    resize(sizeHint().expandedTo(parentWidget() != nullptr ? parentWidget()->size() : QSize()));
}

void Board::resizeEvent(QResizeEvent*) {
    if (effect_ && seenWidth() != laid_out_for_) {
        layOut();
    }
}

QSize Board::sizeHint() const {
    return {m_.name_width + int(columns_.size()) * m_.column_width + m_.right_margin, bottom_ + 8};
}

int Board::wideWidth() const {
    return m_.name_width + int(columns_.size()) * BoardMeasures().column_width + m_.right_margin;
}

const Board::Row* Board::rowOf(const std::string& id) const {
    const auto row =
        std::find_if(rows_.begin(), rows_.end(), [&](const Row& each) { return element(each).id == id; });
    return row != rows_.end() ? &*row : nullptr;
}

const Board::Column* Board::columnOf(const std::string& id) const {
    const auto column = std::find_if(columns_.begin(), columns_.end(),
                                     [&](const Column& each) { return element(each).id == id; });
    return column != columns_.end() ? &*column : nullptr;
}

QRect Board::placed(const Column& column) const {
    return {corner_.x(), corner_.y() + column.line, m_.name_width, m_.stair_line};
}

QRect Board::cellRect(const std::string& influence, const std::string& source) const {
    const Row* row = rowOf(influence);
    const Column* column = columnOf(source);
    return row != nullptr && column != nullptr && can_link(element(*row), element(*column))
               ? QRect(column->left, row->rect.top(), m_.column_width, m_.row_height)
               : QRect();
}

QRect Board::nameRect(const std::string& id) const {
    if (const Column* column = columnOf(id)) {
        const QRect line = placed(*column);
        return line.adjusted(m_.left_margin + 14, 0, -(line.right() - countRect(line).left()) - 2, 0);
    }
    const Row* row = rowOf(id);
    if (row == nullptr) {
        return {};
    }
    const QRect rect = placed(*row);
    return has_links(element(*row)) ? rect.adjusted(m_.left_margin, 0, -m_.cost_width - 14, 0)
           : std::holds_alternative<Trigger>(element(*row).body)
               ? QRect(rect.left() + m_.left_margin - 6, rect.top(), 20, rect.height())
               : rect;
}

std::optional<int> Board::hiddenRow(const std::string& id, int seen_height) const {
    const Row* row = rowOf(id);
    const int low = corner_.y() + m_.header_height, high = corner_.y() + seen_height - m_.row_height;
    const bool is_hidden = row != nullptr && (row->rect.top() < low || row->rect.top() > high);
    return is_hidden ? std::optional(row->rect.top() - (m_.header_height + seen_height) / 2) : std::nullopt;
}

QRect Board::costRect(const QRect& row) const {
    return {row.left() + m_.name_width - m_.cost_width - 10, row.top(), m_.cost_width, row.height()};
}

QRect Board::countRect(const QRect& line) const {
    return {costRect(line).left() - m_.count_width, line.top(), m_.count_width, line.height()};
}

// All that changes with readings.
QRect Board::figuresRect(const QRect& row) const {
    return {row.left() + m_.left_margin, row.top(), m_.name_width - m_.left_margin - 6, row.height()};
}

// At the end of a row's name, and behind the figures of a source, where its line begins.
QRect Board::soloRect(const std::string& id) const {
    const Element* each = find_element(*effect_, id);
    const QRect mute = muteRect(id);
    return each != nullptr && can_be_soloed(*each) ? mute.translated(m_.switch_size, 0) : QRect();
}

QRect Board::muteRect(const std::string& id) const {
    const int size = m_.switch_size;
    const auto beside = [size](const QRect& rect, int left) {
        return QRect(left, rect.top() + (std::min(rect.height(), 24) - size) / 2, size, size);
    };
    if (const Column* column = columnOf(id)) {
        return beside(placed(*column), placed(*column).right() - 1);
    }
    const Row* row = rowOf(id);
    if (row == nullptr) {
        return {};
    }
    if (has_links(element(*row))) {
        return beside(placed(*row), nameRect(id).right() + 1 - 2 * size);
    }
    const QRect rect = placed(*row);
    return beside(rect, std::min(rect.right(), corner_.x() + seenWidth() - 8) - size - 2);
}

std::optional<Board::Cell> Board::cellAt(QPoint place) const {
    const auto cell = crossingAt(place);
    return cell && !cellRect(cell->influence, cell->source).isEmpty() ? cell : std::nullopt;
}

std::optional<Board::Cell> Board::crossingAt(QPoint place) const {
    if (place.x() < corner_.x() + m_.name_width || place.y() < corner_.y() + m_.header_height) {
        return std::nullopt; // below the names, which stay in sight
    }
    for (const Row& row : rows_) {
        if (place.y() < row.rect.top() || place.y() > row.rect.bottom() || !has_links(element(row))) {
            continue;
        }
        for (const Column& column : columns_) {
            if (place.x() >= column.left && place.x() < column.left + m_.column_width) {
                return Cell{element(row).id, element(column).id};
            }
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::nameAt(QPoint place) const {
    if (place.y() < corner_.y() + m_.header_height) {
        for (const Column& column : columns_) {
            if (placed(column).adjusted(0, 0, 2 * m_.switch_size, 0).contains(place)) {
                return element(column).id;
            }
        }
        return std::nullopt;
    }
    for (const Row& row : rows_) {
        if (placed(row).contains(place)) {
            return element(row).id;
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::switchAt(QPoint place,
                                           QRect (Board::*rect)(const std::string&) const) const {
    const auto name = nameAt(place);
    return name && (this->*rect)(*name).contains(place) ? name : std::nullopt;
}

// Rows go between rows of their family, sources between sources, chips between chips.
std::optional<Board::Drop> Board::dropAt(QPoint place) const {
    const auto neighbour = nameAt(
        {std::clamp(place.x(), corner_.x() + m_.left_margin, corner_.x() + m_.name_width - 1), place.y()});
    const auto under = nameAt(place);
    const std::string& id = under ? *under : neighbour ? *neighbour : std::string();
    const Element* other = find_element(*effect_, id);
    if (other == nullptr ||
        family_of(other->body) != family_of(find_element(*effect_, carrying_->id)->body)) {
        return std::nullopt;
    }
    const Column* column = columnOf(id);
    const QRect rect = column != nullptr ? placed(*column) : placed(*rowOf(id));
    const bool is_chip =
        column == nullptr && !has_links(*other) && !std::holds_alternative<Trigger>(other->body);
    if (is_chip) {
        const bool behind = place.x() >= rect.center().x();
        const int x = behind ? rect.right() + 3 : rect.left() - 3;
        return Drop{id, behind, {x, rect.top(), x, rect.bottom()}};
    }
    const bool behind = place.y() >= rect.top() + rect.height() / 2;
    const int y = rect.top() + (behind ? rect.height() : 0) - 1;
    return Drop{id, behind, {corner_.x() + 6, y, corner_.x() + m_.name_width, y}};
}

} // namespace ember
