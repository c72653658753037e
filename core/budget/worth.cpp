#include "core/budget/worth.h"

#include "core/effect/edit.h"

#include <algorithm>
#include <set>

namespace ember {

namespace {

using What = Switch::What;

bool makes_matter(const Element& element) {
    return std::holds_alternative<Emitter>(element.body) || std::holds_alternative<Smoke>(element.body) ||
           std::holds_alternative<Breakable>(element.body);
}

Look* look_in(Effect& effect, const std::string& id) {
    const auto found = std::find_if(effect.looks.begin(), effect.looks.end(),
                                    [&](const Look& look) { return look.id == id; });
    return found == effect.looks.end() ? nullptr : &*found;
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    const size_t middle = values.size() / 2;
    return values.empty()           ? 0
           : values.size() % 2 == 1 ? values[middle]
                                    : (values[middle - 1] + values[middle]) / 2;
}

double megabytes(size_t bytes) {
    return double(bytes) / 1e6;
}

// Of a version, beside the whole: run by run.
struct Runs {
    std::vector<TrialFigures> whole, less;
    std::vector<SeenMoment> seen;
};

Worth worth_of(const Runs& runs, const std::vector<SeenMoment>& whole, const std::vector<SeenMoment>& bare) {
    Worth worth;
    std::vector<double> steps, pictures, sums;
    for (size_t r = 0; r < runs.less.size(); ++r) {
        steps.push_back(runs.whole[r].median_ms - runs.less[r].median_ms);
        pictures.push_back(runs.whole[r].picture_ms - runs.less[r].picture_ms);
        sums.push_back(steps.back() + pictures.back());
    }
    worth.saved_step_ms = median(steps);
    worth.saved_picture_ms = median(pictures);
    const auto [least, most] = std::minmax_element(sums.begin(), sums.end());
    worth.runs = int(sums.size());
    worth.spread_ms = (*most - *least) / 2;
    const TrialFigures &a = runs.whole.front(), &b = runs.less.front();
    worth.particles = long(a.particles_most) - long(b.particles_most);
    worth.pieces = long(a.pieces_most) - long(b.pieces_most);
    worth.memory_mb = megabytes(a.bytes_most) - megabytes(b.bytes_most);
    worth.change = change_of(whole, runs.seen, bare);
    if (const size_t moment = most_different(whole, runs.seen); moment < runs.seen.size()) {
        worth.with = whole[moment].small;
        worth.without = runs.seen[moment].small;
    }
    return worth;
}

} // namespace

bool run_together(std::span<Trial> trials) {
    for (bool goes_on = true; goes_on;) {
        goes_on = false;
        for (Trial& trial : trials) {
            goes_on = trial.step() || goes_on;
        }
    }
    return true;
}

std::vector<Switch> switches_of(const Effect& effect) {
    std::vector<Switch> switches;
    std::set<std::string> worn;
    for (const Element& element : effect.elements) {
        const Family family = family_of(element.body);
        if (!is_active(effect, element) || family == Family::modulator || family == Family::mover) {
            continue;
        }
        switches.push_back({What::element, element.id, 0});
        const auto* turbulence = std::get_if<Turbulence>(&element.body);
        if (turbulence != nullptr && turbulence->octaves > 1) {
            switches.push_back({What::octave, element.id, turbulence->octaves});
        }
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
            worn.insert(emitter->look);
        }
    }
    for (const Look& look : effect.looks) {
        if (!worn.contains(look.id)) {
            continue;
        }
        if (look.copies > 0) {
            switches.push_back({What::copies, look.id, 0});
        }
        for (size_t i = 0; has_layers(look.drawn_as) && i < look.layers.size(); ++i) {
            if (look.layers[i].from != LayerFrom::none) {
                switches.push_back({What::layer, look.id, int(i)});
            }
        }
    }
    const Stage& stage = effect.stage;
    const std::pair<What, bool> lens[] = {{What::bloom, stage.bloom > 0},
                                          {What::glare, stage.glare > 0},
                                          {What::focus, stage.aperture > 0},
                                          {What::shutter, stage.shutter > 0}};
    for (const auto& [what, is_on] : lens) {
        if (is_on) {
            switches.push_back({what, std::string(stage_id), 0});
        }
    }
    return switches;
}

std::optional<Effect> without(const Effect& effect, const Switch& off) {
    Effect less = effect;
    switch (off.what) {
    case What::element:
        return find_element(effect, off.holder) != nullptr
                   ? std::optional(with_muted(effect, off.holder, true))
                   : std::nullopt;
    case What::octave:
        for (Element& element : less.elements) {
            auto* turbulence = std::get_if<Turbulence>(&element.body);
            if (element.id == off.holder && turbulence != nullptr && off.number > 1) {
                turbulence->octaves = std::min(turbulence->octaves, off.number - 1);
                return less;
            }
        }
        return std::nullopt;
    case What::layer:
    case What::copies:
        if (Look* look = look_in(less, off.holder)) {
            if (off.what == What::copies) {
                look->copies = 0;
            } else {
                look->layers[size_t(off.number) % most_layers].from = LayerFrom::none;
            }
            return less;
        }
        return std::nullopt;
    case What::bloom:
        less.stage.bloom = 0;
        return less;
    case What::glare:
        less.stage.glare = 0;
        return less;
    case What::focus:
        less.stage.aperture = 0;
        return less;
    case What::shutter:
        less.stage.shutter = 0;
        return less;
    }
    return std::nullopt;
}

std::string words_of(const Effect& effect, const Switch& off) {
    const auto holder = find_holder(effect, off.holder);
    const std::string name = holder ? holder->name : off.holder;
    switch (off.what) {
    case What::element:
        return name;
    case What::octave:
        return name + ": the finest octave";
    case What::layer:
        return name + ": layer " + std::to_string(off.number + 1);
    case What::copies:
        return name + ": copies";
    case What::bloom:
        return "Bloom";
    case What::glare:
        return "Glare";
    case What::focus:
        return "Depth of field";
    case What::shutter:
        return "Motion blur";
    }
    return name;
}

Effect bare(const Effect& effect) {
    Effect left = effect;
    for (Element& element : left.elements) {
        element.muted = element.muted || makes_matter(element);
    }
    return left;
}

std::optional<WorthTable> worths(const WorthOrder& order, const RunTrials& run,
                                 const std::function<void(const WorthTable&)>& told) {
    constexpr size_t most_at_once = 3; // beside the whole
    const std::vector<Switch> switches = switches_of(*order.effect);
    const auto trial_of = [&](EffectPtr effect) {
        return Trial(std::move(effect), order.assets, order.span, order.make_draw());
    };
    std::vector<Trial> empty;
    empty.push_back(trial_of(std::make_shared<const Effect>(bare(*order.effect))));
    if (!run(empty)) {
        return std::nullopt;
    }
    const std::vector<SeenMoment> bare_seen = empty[0].seen();
    std::vector<EffectPtr> versions;
    for (const Switch& off : switches) {
        versions.push_back(std::make_shared<const Effect>(*without(*order.effect, off)));
    }
    std::vector<Runs> runs(versions.size());
    std::vector<TrialFigures> whole;
    std::vector<SeenMoment> whole_seen;
    const auto table = [&](size_t done) {
        const auto of_whole = [&](double TrialFigures::*member) {
            std::vector<double> values;
            for (const TrialFigures& each : whole) {
                values.push_back(each.*member);
            }
            return median(values);
        };
        WorthTable known;
        known.share_done = double(done) / double(std::max(versions.size(), size_t(1)) * size_t(order.rounds));
        known.whole = whole.empty() ? TrialFigures() : whole.front();
        for (const auto member :
             {&TrialFigures::median_ms, &TrialFigures::high_ms, &TrialFigures::picture_ms}) {
            known.whole.*member = of_whole(member);
        }
        for (size_t i = 0; i < switches.size(); ++i) {
            if (!runs[i].less.empty()) {
                Worth worth = worth_of(runs[i], whole_seen, bare_seen);
                worth.off = switches[i];
                worth.words = words_of(*order.effect, switches[i]);
                known.rows.push_back(std::move(worth));
            }
        }
        std::stable_sort(known.rows.begin(), known.rows.end(), [](const Worth& a, const Worth& b) {
            return a.cost_for_what_is_seen() > b.cost_for_what_is_seen();
        });
        return known;
    };
    size_t done = 0;
    for (int round = 0; round < order.rounds; ++round) {
        for (size_t first = 0; first < versions.size(); first += most_at_once) {
            const size_t last = std::min(first + most_at_once, versions.size());
            std::vector<Trial> trials;
            trials.reserve(1 + most_at_once);
            trials.push_back(trial_of(order.effect));
            for (size_t i = first; i < last; ++i) {
                trials.push_back(trial_of(versions[i]));
            }
            if (!run(trials)) {
                return std::nullopt;
            }
            whole.push_back(trials[0].figures());
            whole_seen = trials[0].seen();
            for (size_t i = first; i < last; ++i) {
                const Trial& less = trials[1 + i - first];
                runs[i].whole.push_back(whole.back());
                runs[i].less.push_back(less.figures());
                runs[i].seen = less.seen();
            }
            done += last - first;
            told(table(done));
        }
    }
    return table(done);
}

} // namespace ember
