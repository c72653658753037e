// What the detail panel says about what is selected, in words.
#pragma once

#include "desktop/workbench/readings.h"

#include <QString>
#include <QStringList>

namespace ember {

/// More particles than a source's capacity takes, in the long run; empty if it is not so.
QString excess_words(const Effect& effect, const std::string& source_id);

/// What an effect would come to that is more than a limit allows: the whole, the selected source's capacity,
/// the budget. Empty if all is well.
QString caution_words(const Effect& effect, const std::string& selection);

/// What the selected element, the stage or the budget costs now, and what it holds.
QString cost_words(const Effect& effect, const std::string& selection, const Readings& readings,
                   const SmoothedCosts& costs);

/// The numbers that a modulator drives, but for one drive (or nullptr): "Spray jet: rate".
QStringList driven_words(const Effect& effect, const std::string& modulator_id, const Drive* but = nullptr);

/// The other sources that have the same look as this one.
QStringList look_sharers(const Effect& effect, const Element& source);

/// The name of a source's look, and who shares it.
QString look_words(const Effect& effect, const Element& source);

} // namespace ember
