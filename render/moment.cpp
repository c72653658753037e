#include "render/moment.h"

#include "render/renderer.h"

#include <algorithm>
#include <memory>

namespace ember {

WorkTimes work_of(const DrawMeters& meters) {
    WorkTimes work{};
    const auto set = [&](Work kind, double ms) { work[size_t(kind)] = ms; };
    set(Work::stage, meters.stage_ms);
    set(Work::clouds, meters.smoke_ms);
    set(Work::focus, meters.focus_ms);
    set(Work::finishing, meters.finishing_ms);
    const double known = meters.stage_ms + meters.smoke_ms + meters.focus_ms + meters.finishing_ms;
    set(Work::things, std::max(meters.total_ms - known, 0.0));
    return work;
}

DrawMeters predicted(const DrawMeters& here, const Effect& effect, const MachineRatio& ratio) {
    DrawMeters there = here;
    const WorkTimes work = work_of(here);
    const double things = things_ratio_of(effect, here.element_ms, ratio);
    there.total_ms = 0;
    for (size_t i = kinds_of_step; i < kinds_of_work; ++i) {
        there.total_ms += work[i] * (Work(i) == Work::things ? things : ratio.work[i]);
    }
    there.stage_ms *= ratio[Work::stage];
    there.lamps_ms *= ratio[Work::stage];
    there.smoke_ms *= ratio[Work::clouds];
    there.focus_ms *= ratio[Work::focus];
    there.dots_ms *= things;
    there.surface_ms *= things;
    for (double* ms : {&there.finishing_ms, &there.finishing.bloom_ms, &there.finishing.glare_ms,
                       &there.finishing.tone_ms}) {
        *ms *= ratio[Work::finishing];
    }
    for (size_t i = 0; i < there.element_ms.size() && i < effect.elements.size(); ++i) {
        there.element_ms[i] *= drawing_ratio_of(effect, effect.elements[i], ratio);
    }
    return there;
}

DrawMoment moment_painter(int width, int height, std::optional<Camera> camera) {
    struct Painter {
        Renderer renderer;
        Picture picture;
        bool is_settled = false;
    };
    return [=, painter = std::make_shared<Painter>()](const Frame& frame) -> std::optional<SeenMoment> {
        painter->renderer.draw(frame, *frame.now, camera.value_or(camera_of(frame.now->stage)), width, height,
                               painter->picture);
        // A stage that stands still is drawn once for all moments; what it takes is not what a picture takes.
        if (!painter->is_settled) {
            painter->is_settled = painter->renderer.is_settled();
            return std::nullopt;
        }
        SeenMoment seen = seen_moment(painter->picture.pixels.data(), width, height);
        const WorkTimes work = work_of(painter->renderer.meters());
        std::copy(work.begin() + kinds_of_step, work.end(), seen.parts_ms.begin());
        seen.element_ms = painter->renderer.meters().element_ms;
        return seen;
    };
}

} // namespace ember
