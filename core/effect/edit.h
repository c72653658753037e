// Edits: each takes an effect and returns a new one. What is not named stays as it is, with its id.
#pragma once

#include "core/effect/parameter.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// The effect with one parameter of one holder set. The holder and key exist and the value has passed
/// refusal_of().
Effect with_value(const Effect& effect, std::string_view holder_id, const Parameter& parameter,
                  const Value& value);

/// Adds an element of a type at the end of its family. An influence is linked to every source, a source to
/// every influence, with full weight; a source gets a look of its own. `id` receives the new element's id.
Effect with_new_element(const Effect& effect, const ElementType& type, std::string& id);

/// Adds a ready element, whose id is free, at the end of its family.
Effect with_element(const Effect& effect, Element element);

/// Moves an element among those of its family: -1 earlier, 1 later. At the end it stays.
Effect with_moved(const Effect& effect, std::string_view element_id, int by);

/// Adds a copy behind the original, with the same links and, for a source, the same look (shared). `id`
/// receives the copy's id.
Effect with_duplicate(const Effect& effect, std::string_view element_id, std::string& id);

/// Gives an emitter a copy of its look that no other source has.
Effect with_own_look(const Effect& effect, std::string_view emitter_id);

/// Without the element, the links to it, and the look that only it used.
Effect without_element(const Effect& effect, std::string_view element_id);

Effect with_name(const Effect& effect, std::string_view element_id, std::string name);
Effect with_effect_name(const Effect& effect, std::string name);
Effect with_seed(const Effect& effect, uint32_t seed);
Effect with_muted(const Effect& effect, std::string_view element_id, bool muted);
Effect with_solo(const Effect& effect, std::string_view element_id, bool solo);

/// Links an influence to a source with `weight` (0..1), or takes the link away.
Effect with_link(const Effect& effect, std::string_view influence_id, std::string_view source_id,
                 std::optional<float> weight);

/// Lets a modulator drive a number, in place of what drove it. The drive has passed refusal_of().
Effect with_drive(const Effect& effect, const Drive& drive);
Effect without_drive(const Effect& effect, std::string_view holder_id, std::string_view parameter, int part);

/// An id of words joined by hyphens that nothing has yet.
std::string free_id(const Effect& effect, std::string_view name);

/// A name of this family that no element has yet: "Wind", "Wind 2", ...
std::string free_name(const Effect& effect, std::string_view wish);

} // namespace ember
