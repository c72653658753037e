// Where things stand on the board.
#include "desktop/board/board.h"

#include "core/effect/edit.h"

#include <algorithm>

namespace ember {

bool Board::has_links(const Element& each) {
    return reach_of(each.body) != nullptr;
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
        if (headingRect(heading.family, heading.group).contains(place)) {
            return &heading;
        }
    }
    return nullptr;
}

// The rows of a family or of a group in it, with their heading.
void Board::addRows(Family family, const std::string& group, int& top) {
    const bool is_collapsed = filter_.isEmpty() && collapsed_.contains({family, group});
    Heading heading = {family, group, top, 0};
    std::vector<size_t> shown;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        const Element& each = effect_->elements[i];
        if (family_of(each.body) != family || each.group != group) {
            continue;
        }
        const bool fits = QString::fromStdString(each.name).contains(filter_, Qt::CaseInsensitive);
        if (fits && !is_collapsed) {
            shown.push_back(i);
        } else {
            ++heading.hidden;
        }
    }
    // A family whose rows are all in groups needs no heading of its own.
    if (shown.empty() && heading.hidden == 0) {
        return;
    }
    headings_.push_back(heading);
    top += m_.heading_height;
    for (const size_t i : shown) {
        rows_.push_back({i, top});
        top += m_.row_height;
    }
}

void Board::layOut() {
    rows_.clear();
    columns_.clear();
    headings_.clear();
    std::vector<std::pair<Family, std::string>> parts; // in the order of the board
    for (const Element& each : effect_->elements) {
        const std::pair<Family, std::string> ungrouped(family_of(each.body), "");
        for (const auto& part : {ungrouped, std::pair(ungrouped.first, each.group)}) {
            if (part.first != Family::source && std::find(parts.begin(), parts.end(), part) == parts.end()) {
                parts.push_back(part);
            }
        }
    }
    std::stable_sort(parts.begin(), parts.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });

    std::vector<size_t> sources;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        if (family_of(effect_->elements[i].body) == Family::source) {
            sources.push_back(i);
        }
    }
    m_ = BoardMeasures::of(effect_->elements.size() - sources.size(), sources.size());
    int left = m_.name_width;
    for (const size_t i : sources) {
        columns_.push_back({i, left});
        left += m_.column_width;
    }
    int top = m_.header_height;
    for (const auto& [family, group] : parts) {
        addRows(family, group, top);
    }
    bottom_ = top;
    focus_row_ = std::min(focus_row_, rows_.empty() ? 0 : rows_.size() - 1);
    focus_column_ = std::min(focus_column_, columns_.empty() ? 0 : columns_.size() - 1);
    updateGeometry();
    resize(sizeHint().expandedTo(parentWidget() != nullptr ? parentWidget()->size() : QSize()));
}

QSize Board::sizeHint() const {
    return {m_.name_width + int(columns_.size()) * m_.column_width + m_.right_margin, bottom_ + 8};
}

QRect Board::cellRect(const std::string& influence, const std::string& source) const {
    for (const Slot& row : rows_) {
        for (const Slot& column : columns_) {
            if (element(row).id == influence && element(column).id == source &&
                can_link(element(row), element(column))) {
                return {column.at, row.at, m_.column_width, m_.row_height};
            }
        }
    }
    return {};
}

QRect Board::nameRect(const std::string& id) const {
    for (const Slot& row : rows_) {
        if (element(row).id == id) {
            return {corner_.x() + m_.left_margin, row.at,
                    m_.name_width - m_.left_margin - 2 * m_.switch_size - 6, m_.row_height};
        }
    }
    for (const Slot& column : columns_) {
        if (element(column).id == id) {
            return {column.at, corner_.y() + m_.header_height - 62, m_.column_width, 36};
        }
    }
    return {};
}

std::optional<int> Board::hiddenRow(const std::string& id, int seen_height) const {
    const auto row =
        std::find_if(rows_.begin(), rows_.end(), [&](const Slot& each) { return element(each).id == id; });
    const int low = corner_.y() + m_.header_height, high = corner_.y() + seen_height - m_.row_height;
    const bool is_hidden = row != rows_.end() && (row->at < low || row->at > high);
    return is_hidden ? std::optional(row->at - (m_.header_height + seen_height) / 2) : std::nullopt;
}

QRect Board::figuresRect(const Slot& row) const {
    const int upper = m_.row_height / 2 - 2;
    return {corner_.x() + m_.left_margin, row.at + m_.row_height - upper - 1,
            m_.name_width - m_.left_margin - 4, upper};
}

QRect Board::countsRect(const Slot& column) const {
    return {column.at - 6, corner_.y() + m_.header_height - 58, m_.column_width + 12, 32};
}

QRect Board::muteRect(const std::string& id) const {
    for (const Slot& row : rows_) {
        if (element(row).id == id) {
            return {corner_.x() + m_.name_width - 2 * m_.switch_size - 4, row.at + 1, m_.switch_size,
                    m_.switch_size};
        }
    }
    for (const Slot& column : columns_) {
        if (element(column).id == id) {
            return {column.at + m_.column_width / 2 - m_.switch_size, corner_.y() + m_.header_height - 24,
                    m_.switch_size, m_.switch_size};
        }
    }
    return {};
}

QRect Board::soloRect(const std::string& id) const {
    const QRect mute = muteRect(id);
    const Element* each = find_element(*effect_, id);
    const bool has_solo = each != nullptr && can_be_soloed(*each);
    return has_solo ? mute.translated(m_.switch_size, 0) : QRect();
}

std::optional<Board::Cell> Board::cellAt(QPoint place) const {
    if (place.x() < corner_.x() + m_.name_width || place.y() < corner_.y() + m_.header_height) {
        return std::nullopt; // below the names, which stay in sight
    }
    for (const Slot& row : rows_) {
        for (const Slot& column : columns_) {
            const Cell cell = {element(row).id, element(column).id};
            // Movers have no cells.
            if (cellRect(cell.influence, cell.source).contains(place)) {
                return cell;
            }
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::nameAt(QPoint place) const {
    const QPoint seen = place - corner_;
    if (seen.y() >= m_.header_height) {
        for (const Slot& row : rows_) {
            const bool on_row = place.y() >= row.at && place.y() < row.at + m_.row_height;
            if (on_row && seen.x() >= 0 && seen.x() < m_.name_width) {
                return element(row).id;
            }
        }
        return std::nullopt;
    }
    for (const Slot& column : columns_) {
        // Names lean to the right: a place belongs to the column at whose foot its slanted line ends.
        const int foot = place.x() - int((m_.header_height - 62 - seen.y()) * 1.2);
        const int x = seen.y() < m_.header_height - 62 ? foot : place.x();
        if (x >= column.at && x < column.at + m_.column_width) {
            return element(column).id;
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::switchAt(QPoint place,
                                           QRect (Board::*rect)(const std::string&) const) const {
    const bool in_header = place.y() < corner_.y() + m_.header_height;
    for (const Element& each : effect_->elements) {
        const bool is_column = family_of(each.body) == Family::source;
        if (is_column == in_header && (this->*rect)(each.id).contains(place)) {
            return each.id;
        }
    }
    return std::nullopt;
}

// Rows go between rows of their family, columns between columns.
std::optional<Board::Drop> Board::dropAt(QPoint place) const {
    const Family family = family_of(find_element(*effect_, carrying_->id)->body);
    if (family == Family::source) {
        for (const Slot& column : columns_) {
            const int middle = column.at + m_.column_width / 2;
            const bool is_last = &column == &columns_.back();
            if (place.x() < middle || is_last) {
                const bool behind = place.x() >= middle;
                const int x = column.at + (behind ? m_.column_width : 0);
                return Drop{element(column).id,
                            behind,
                            {x, corner_.y() + m_.header_height - 60, x, corner_.y() + m_.header_height}};
            }
        }
        return std::nullopt;
    }
    for (const Slot& row : rows_) {
        if (place.y() >= row.at && place.y() < row.at + m_.row_height &&
            family_of(element(row).body) == family) {
            const bool behind = place.y() >= row.at + m_.row_height / 2;
            const int y = row.at + (behind ? m_.row_height : 0) - 1;
            return Drop{element(row).id, behind, {corner_.x() + 6, y, corner_.x() + m_.name_width, y}};
        }
    }
    return std::nullopt;
}

} // namespace ember
