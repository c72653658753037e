#include "render/machine_probe.h"

#include "core/assets/assets.h"
#include "core/effect/edit.h"
#include "core/effect/track.h"
#include "render/moment.h"

#include <oneapi/tbb/info.h>

#include <algorithm>

namespace ember {

namespace {

struct Probe {
    EffectPtr effect;
    Span span;
    std::vector<Work> told; // what is read from it
};

template <class Body>
Body& body_of(Effect& effect, const std::string& id) {
    const auto found = std::find_if(effect.elements.begin(), effect.elements.end(),
                                    [&](const Element& each) { return each.id == id; });
    return std::get<Body>(found->body);
}

// Seen by a camera that goes round, so that the stage is drawn in every picture.
Effect seen_all_round(Effect effect) {
    effect = with_key(effect, stage_id, "camera_azimuth", 0, 0.0f);
    return with_key(effect, stage_id, "camera_azimuth", 10, 300.0f);
}

Effect particles() {
    Effect effect = starter_effect();
    std::string id;
    for (const char* type : {"drag", "turbulence", "vortex", "box", "ball"}) {
        effect = with_new_element(effect, *find_type(type), id);
        if (id == "turbulence") {
            body_of<Turbulence>(effect, id).octaves = 2;
        }
    }
    for (Element& element : effect.elements) {
        if (auto* emitter = std::get_if<Emitter>(&element.body)) {
            emitter->rate = 20000;
            emitter->capacity = 60000;
            emitter->lifetime = {2, 2};
        }
    }
    return effect;
}

std::vector<Probe> probes() {
    const auto shared = [](Effect effect) { return std::make_shared<const Effect>(std::move(effect)); };
    std::string id;
    const Effect sparks = seen_all_round(particles());
    Effect deep = sparks;
    deep.stage.aperture = 60;
    Effect smoke = starter_effect();
    smoke = with_new_element(smoke, *find_type("smoke"), id);
    smoke = with_new_element(smoke, *find_type("smoke-source"), id);
    Effect wall = starter_effect();
    wall = with_new_element(wall, *find_type("breakable"), id);
    auto& body = body_of<Breakable>(wall, id);
    body.position = {0, 1.5f, 0};
    body.pieces = 150;
    body.strength = 0;
    return {{shared(sparks),
             {1.5, 2.5},
             {Work::births, Work::forces, Work::collision, Work::stage, Work::things, Work::finishing}},
            {shared(deep), {1.5, 1.7}, {Work::focus}},
            {shared(smoke), {0.5, 1.5}, {Work::smoke, Work::clouds}},
            {shared(wall), {0.1, 1.1}, {Work::pieces}}};
}

} // namespace

std::optional<MachineProfile> measured_machine(const std::string& name, const RunTrials& run,
                                               const std::function<void(double share)>& told) {
    constexpr size_t rounds = 5;
    constexpr int width = 960, height = 600;
    const std::vector<Probe> all = probes();
    std::array<std::vector<double>, kinds_of_work> times;
    for (size_t round = 0; round < rounds; ++round) {
        for (size_t i = 0; i < all.size(); ++i) {
            const Probe& probe = all[i];
            Trial trial(probe.effect, AssetLibrary().load(*probe.effect, {}).assets, probe.span,
                        moment_painter(width, height));
            if (!run({&trial, 1})) {
                return std::nullopt;
            }
            for (const Work work : probe.told) {
                times[size_t(work)].push_back(trial.figures().work_ms[size_t(work)]);
            }
            told(double(round * all.size() + i + 1) / double(rounds * all.size()));
        }
    }
    MachineProfile profile;
    profile.name = name;
    profile.about = "measured";
    profile.threads = tbb::info::default_concurrency();
    for (size_t i = 0; i < kinds_of_work; ++i) {
        constexpr double least_ms = 1e-5;
        profile.ms[i] = std::max(*std::min_element(times[i].begin(), times[i].end()), least_ms);
    }
    return profile;
}

} // namespace ember
