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
/// every influence, with full weight (a volume of smoke not with gravity and drag); a source gets a look of
/// its own. `id` receives the new element's id.
Effect with_new_element(const Effect& effect, const ElementType& type, std::string& id);

/// Adds a ready element, whose id is free, at the end of its family.
Effect with_element(const Effect& effect, Element element);

/// Moves an element among those of its family and group: -1 earlier, 1 later. At the end it stays.
Effect with_moved(const Effect& effect, std::string_view element_id, int by);

/// Puts elements before or behind another of their family, in the order they have, and into its group. Those
/// of another family stay where they are.
Effect with_placed(const Effect& effect, const std::vector<std::string>& element_ids,
                   std::string_view neighbour_id, bool behind);

/// Elements in a group of this name; an empty one takes them out of theirs.
Effect with_group(const Effect& effect, const std::vector<std::string>& element_ids,
                  const std::string& group);

/// Adds a copy behind the original, with the same links and, for a source, the same look (shared). `id`
/// receives the copy's id.
Effect with_duplicate(const Effect& effect, std::string_view element_id, std::string& id);

/// Gives an emitter a copy of its look that no other source has.
Effect with_own_look(const Effect& effect, std::string_view emitter_id);

/// Lets one drive have a copy of its modulator that drives nothing else. `id` receives the copy's id.
Effect with_own_modulator(const Effect& effect, const Drive& drive, std::string& id);

/// Adds a texture of this kind. `id` receives its id.
Effect with_new_texture(const Effect& effect, TextureKind kind, std::string& id);
Effect with_texture_name(const Effect& effect, std::string_view texture_id, std::string name);

/// Without the texture; layers that used it are left without one.
Effect without_texture(const Effect& effect, std::string_view texture_id);

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

/// What is remembered about a parameter; an empty text takes it away.
Effect with_note(const Effect& effect, std::string_view holder_id, std::string_view parameter,
                 std::string text);

/// An id of words joined by hyphens that nothing has yet.
std::string free_id(const Effect& effect, std::string_view name);

/// A name of this family that no element has yet: "Wind", "Wind 2", ...
std::string free_name(const Effect& effect, std::string_view wish);

} // namespace ember
