#include "core/effect/history.h"

namespace ember {

void History::reset(EffectPtr effect) {
    saved_ = effect;
    steps_ = {{std::move(effect), ""}};
    now_ = 0;
    open_gesture_.clear();
}

void History::push(EffectPtr effect, std::string label, std::string gesture) {
    const bool continues = !gesture.empty() && gesture == open_gesture_ && can_undo();
    steps_.resize(now_ + 1);
    if (continues) {
        steps_[now_].effect = std::move(effect);
    } else {
        steps_.push_back({std::move(effect), std::move(label)});
        ++now_;
    }
    open_gesture_ = std::move(gesture);
}

void History::undo() {
    if (can_undo()) {
        --now_;
    }
    end_gesture();
}

void History::redo() {
    if (can_redo()) {
        ++now_;
    }
    end_gesture();
}

void History::go_to(size_t step) {
    now_ = step;
    end_gesture();
}

void History::mark_unsaved() {
    auto nothing = std::make_shared<Effect>();
    nothing->name.clear();
    nothing->elements.clear();
    saved_ = std::move(nothing);
}

} // namespace ember
