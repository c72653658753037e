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
    const double things = things_ratio_of(effect, here.element_ms, here.element_readied_ms, ratio);
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
        const DrawingRatio drawing = drawing_ratio_of(effect, effect.elements[i], ratio);
        there.element_ms[i] = drawing.of(here.element_ms[i], here.element_readied_ms[i]);
        there.element_readied_ms[i] *= drawing.readied;
    }
    return there;
}

DrawMoment moment_painter(int width, int height, std::optional<Camera> camera) {
    struct Painter {
        Renderer renderer;
        Picture picture;
        bool is_settled = false;
        SeenMoment times; // of the pictures of this moment so far
        int pictures = 0;
    };
    return [=, painter = std::make_shared<Painter>()](const Frame& frame) -> std::optional<SeenMoment> {
        painter->renderer.draw(frame, *frame.now, camera.value_or(camera_of(frame.now->stage)), width, height,
                               painter->picture);
        // A stage that stands still is drawn once for all moments; what it takes is not what a picture takes.
        if (!painter->is_settled) {
            painter->is_settled = painter->renderer.is_settled();
            return std::nullopt;
        }
        // What disturbs a picture makes it dearer, never cheaper. But what has moved since the moment before
        // is drawn anew in the first picture alone: the stage, what of it is out of focus, smoke.
        const auto part = [](auto& parts, Work kind) -> auto& {
            return parts[size_t(kind) - kinds_of_step];
        };
        constexpr int pictures = 3;
        SeenMoment& times = painter->times;
        const DrawMeters& meters = painter->renderer.meters();
        std::array<double, kinds_of_work - kinds_of_step> parts;
        const WorkTimes work = work_of(meters);
        std::copy(work.begin() + kinds_of_step, work.end(), parts.begin());
        const bool is_first = painter->pictures++ == 0;
        if (is_first || part(parts, Work::things) < part(times.parts_ms, Work::things)) {
            times.element_ms = meters.element_ms;
            times.element_readied_ms = meters.element_readied_ms;
        }
        if (is_first) {
            times.parts_ms = parts;
        }
        for (const Work kind : {Work::things, Work::finishing}) {
            double& quickest = part(times.parts_ms, kind);
            quickest = std::min(quickest, part(parts, kind));
        }
        if (painter->pictures < pictures) {
            return std::nullopt;
        }
        painter->pictures = 0;
        SeenMoment seen = seen_moment(painter->picture.pixels.data(), width, height);
        seen.parts_ms = times.parts_ms;
        seen.element_ms = times.element_ms;
        seen.element_readied_ms = times.element_readied_ms;
        return seen;
    };
}

} // namespace ember
