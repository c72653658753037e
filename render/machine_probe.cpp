#include "render/machine_probe.h"

#include "core/assets/assets.h"
#include "core/effect/edit.h"
#include "core/effect/parameter.h"
#include "core/effect/track.h"
#include "render/moment.h"

#include <oneapi/tbb/info.h>

#include <algorithm>
#include <limits>
#include <numeric>

namespace ember {

namespace {

struct Probe {
    EffectPtr effect;
    Span span;
    std::vector<Work> told; // what is read from it
    bool tells_elements = false;
    std::string look; // what its things are drawn as, if that is told
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

Effect particles(float rate, std::initializer_list<const char*> influences) {
    Effect effect = starter_effect();
    std::string id;
    for (const char* type : influences) {
        effect = with_new_element(effect, *find_type(type), id);
        if (id == "turbulence") {
            body_of<Turbulence>(effect, id).octaves = 2;
        }
    }
    for (Element& element : effect.elements) {
        if (auto* emitter = std::get_if<Emitter>(&element.body)) {
            emitter->rate = rate;
            emitter->capacity = int(3 * rate);
            emitter->lifetime = {2, 2};
        }
    }
    return effect;
}

std::vector<Probe> probes() {
    const auto shared = [](Effect effect) { return std::make_shared<const Effect>(std::move(effect)); };
    std::string id;
    const Effect sparks = seen_all_round(particles(20000, {"drag", "turbulence", "vortex", "box", "ball"}));
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
    std::vector<Probe> all = {
        {shared(sparks),
         {1.5, 2.5},
         {Work::births, Work::forces, Work::collision, Work::stage, Work::things, Work::finishing}},
        {shared(deep), {1.5, 1.7}, {Work::focus}},
        {shared(smoke), {0.5, 1.5}, {Work::smoke, Work::clouds}},
        {shared(wall), {0.1, 1.1}, {Work::pieces}}};
    // Each force and collider that needs no file.
    const Effect influenced =
        particles(4000, {"wind", "drag", "turbulence", "vortex", "pull", "spring", "path-flow", "waves",
                         "jitter", "flock", "box", "ball", "capsule", "cylinder"});
    all.push_back({.effect = shared(influenced), .span = {0.8, 1.2}, .tells_elements = true});
    for (size_t i = 0; i < drawing_names().size(); ++i) {
        Effect worn = particles(2000, {});
        worn.looks[0].drawn_as = Drawing(i);
        all.push_back({.effect = shared(worn), .span = {0.8, 1}, .look = std::string(drawing_names()[i])});
    }
    return all;
}

// What made the things of a trial's moments ready: the median.
double readied_ms(const Trial& trial) {
    std::vector<double> all;
    for (const SeenMoment& moment : trial.seen()) {
        all.push_back(
            std::accumulate(moment.element_readied_ms.begin(), moment.element_readied_ms.end(), 0.0));
    }
    std::nth_element(all.begin(), all.begin() + std::ptrdiff_t(all.size() / 2), all.end());
    return all[all.size() / 2];
}

void lower(NamedTimes& times, const std::string& name, double ms) {
    const auto [known, is_first] = times.try_emplace(name, ms);
    known->second = std::min(known->second, ms);
}

} // namespace

std::optional<MachineProfile> measured_machine(const std::string& name, const RunTrials& run,
                                               const std::function<void(double share)>& told) {
    constexpr size_t rounds = 5;
    constexpr int width = 960, height = 600;
    const std::vector<Probe> all = probes();
    constexpr double least_ms = 1e-5;
    MachineProfile profile;
    profile.name = name;
    profile.about = "measured";
    profile.threads = tbb::info::default_concurrency();
    profile.ms.fill(std::numeric_limits<double>::max());
    for (size_t round = 0; round < rounds; ++round) {
        for (size_t i = 0; i < all.size(); ++i) {
            const Probe& probe = all[i];
            Trial trial(probe.effect, AssetLibrary().load(*probe.effect, {}).assets, probe.span,
                        moment_painter(width, height));
            if (!run({&trial, 1})) {
                return std::nullopt;
            }
            const TrialFigures figures = trial.figures();
            const auto at_least = [&](double ms) { return std::max(ms, least_ms); };
            for (const Work work : probe.told) {
                double& ms = profile.ms[size_t(work)];
                ms = std::min(ms, at_least(figures.work_ms[size_t(work)]));
            }
            for (size_t e = 0; probe.tells_elements && e < figures.element_ms.size(); ++e) {
                const ElementBody& body = probe.effect->elements[e].body;
                if (!std::holds_alternative<Emitter>(body)) {
                    lower(profile.elements, std::string(type_of(body).key), at_least(figures.element_ms[e]));
                }
            }
            if (!probe.look.empty()) {
                const double whole = at_least(figures.work_ms[size_t(Work::things)]);
                lower(profile.looks, probe.look, whole);
                lower(profile.readied, probe.look, std::min(at_least(readied_ms(trial)), 0.99 * whole));
            }
            told(double(round * all.size() + i + 1) / double(rounds * all.size()));
        }
    }
    return profile;
}

} // namespace ember
