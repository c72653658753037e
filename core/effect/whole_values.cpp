// What copies, destroys and compares whole elements and effects.
#include "core/effect/effect.h"

namespace ember {

ElementBody::ElementBody() = default;
ElementBody::ElementBody(const ElementBody& other) = default;
ElementBody::ElementBody(ElementBody&& other) noexcept = default;
ElementBody& ElementBody::operator=(const ElementBody& other) = default;
ElementBody& ElementBody::operator=(ElementBody&& other) noexcept = default;
ElementBody::~ElementBody() = default;
bool ElementBody::operator==(const ElementBody& other) const = default;

Effect::Effect() = default;
Effect::Effect(const Effect& other) = default;
Effect::Effect(Effect&& other) noexcept = default;
Effect& Effect::operator=(const Effect& other) = default;
Effect& Effect::operator=(Effect&& other) noexcept = default;
Effect::~Effect() = default;
bool Effect::operator==(const Effect& other) const = default;

} // namespace ember
