// What an emitter's births, lives and forms are, as rows of data.
#pragma once

#include "core/scene/program.h"

namespace ember {

/// Chance of an element's own, from the effect's seed.
uint32_t element_seed(const Effect& effect, const Element& element);
/// The same of a source, with the seed that it may have of its own.
uint32_t source_seed(const Effect& effect, const Element& source, const Emitter& emitter);

/// `below`: axes of what the emitter rides on. Directions turn with these, not with the birth shape.
BirthRow birth_row(const Emitter& emitter, const PreparedElement& ready, uint32_t seed,
                   const Placement& placement, const Axes& below, const StepTime& time);

LifeUse life_use(const Emitter& emitter, const PreparedElement& ready, uint32_t seed);

/// How the particles of a source that are not round lie in space.
FormRow form_row(const PreparedEffect& prepared, size_t element);

} // namespace ember
