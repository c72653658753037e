#include "core/budget/fit.h"

#include "core/effect/edit.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

constexpr float usual_end = 0.2f; // of what a number was
// How far what is left makes up for what is not: all of it is too bright where a tone curve has its end.
constexpr double make_up_powers[] = {1, 0.7, 0.4};

double number_in(const Value& value) {
    const auto* whole = std::get_if<int>(&value);
    return whole != nullptr ? *whole : double(std::get<float>(value));
}

const Parameter* parameter_of(const Effect& effect, const FitNumber& number) {
    const auto holder = find_holder(effect, number.holder);
    const Parameter* parameter = holder ? holder->find(number.parameter) : nullptr;
    const bool is_number = parameter != nullptr && (parameter->kind == ParameterKind::number ||
                                                    parameter->kind == ParameterKind::count);
    return is_number ? parameter : nullptr;
}

double value_of(const Effect& effect, const FitNumber& number) {
    return number_in(parameter_of(effect, number)->get(find_holder(effect, number.holder)->object));
}

// A share of its way, 0 to 1; in even ratios where it can be.
double on_the_way(double from, double to, double share) {
    return from > 0 && to > 0 ? from * std::pow(to / from, share) : from + (to - from) * share;
}

Effect with_shares(const Effect& effect, const std::vector<FitNumber>& numbers,
                   const std::vector<double>& shares) {
    Effect fitted = effect;
    for (size_t i = 0; i < numbers.size(); ++i) {
        if (shares[i] <= 0) {
            continue;
        }
        const Parameter& parameter = *parameter_of(effect, numbers[i]);
        const double value = on_the_way(value_of(effect, numbers[i]), double(numbers[i].end), shares[i]);
        fitted = with_value(fitted, numbers[i].holder, parameter,
                            parameter.kind == ParameterKind::count ? Value(int(std::lround(value)))
                                                                   : Value(float(value)));
    }
    return fitted;
}

// What makes up for it that fewer particles wear a look.
const char* strength_of(const Look& look) {
    return look.blend == Blend::add ? "glow" : "opacity";
}

// Looks that fewer particles wear than before are drawn stronger: with a power of 1 as if all were there.
Effect stronger(const Effect& fitted, const TrialFigures& before, const TrialFigures& after, double power) {
    Effect made = fitted;
    for (const Look& look : fitted.looks) {
        double were = 0, are = 0;
        for (size_t i = 0; i < fitted.elements.size(); ++i) {
            const auto* emitter = std::get_if<Emitter>(&fitted.elements[i].body);
            if (emitter != nullptr && emitter->look == look.id) {
                were += double(before.element_most[i]);
                are += double(after.element_most[i]);
            }
        }
        if (are <= 0 || were <= are) {
            continue;
        }
        const FitNumber strength{look.id, strength_of(look)};
        const Parameter& parameter = *parameter_of(fitted, strength);
        const double times = std::pow(were / are, power), value = value_of(fitted, strength);
        const double more = look.blend == Blend::add ? value * times : 1 - std::pow(1 - value, times);
        made = with_value(made, look.id, parameter, float(std::min(more, parameter.hard_high)));
    }
    return made;
}

// How full the fullest limit is, 1 at its margin.
double load_of(const FitOrder& order, const TrialFigures& figures) {
    double most = 0;
    for (const LimitReading& reading : readings_of(*order.effect, figures)) {
        most = std::max(most, reading.share() / (1 - order.margin));
    }
    return most;
}

std::string figure_of(double value) {
    return text_of(float(value >= 100 ? std::round(value) : std::round(value * 100) / 100));
}

std::string words_of(const LimitReading& reading) {
    return reading.name + " " + figure_of(reading.measured) + " of " + figure_of(reading.limit) +
           (reading.unit.empty() ? "" : " " + reading.unit);
}

// One search. Each run of a version is made once.
class Search {
  public:
    Search(const FitOrder& order, const RunTrials& run, const std::function<void(int, int)>& told)
        : order_(order), run_(run), told_(told) {}

    std::optional<FitResult> found();

  private:
    struct Tried {
        Effect effect;
        std::vector<double> shares; // what makes up for them has none
        TrialFigures figures;
        std::vector<SeenMoment> seen;
        double load = 0;
        bool holds() const { return load <= 1; }
    };
    const Tried* tried(const std::vector<double>& shares);
    const Tried* run_of(Effect effect, const std::vector<double>& shares);
    const Tried* made_up(const Tried& before, const Tried& fitted);
    std::optional<std::vector<size_t>> order_of_giving(const Tried& as_it_is);
    FitResult result_of(const Tried& before, const Tried& after) const;

    const FitOrder& order_;
    const RunTrials& run_;
    const std::function<void(int, int)>& told_;
    std::vector<SeenMoment> bare_;
    std::vector<std::unique_ptr<Tried>> tried_;
    int most_runs_ = 0;
};

const Search::Tried* Search::tried(const std::vector<double>& shares) {
    for (const auto& each : tried_) {
        if (each->shares == shares) {
            return each.get();
        }
    }
    return run_of(with_shares(*order_.effect, order_.numbers, shares), shares);
}

const Search::Tried* Search::run_of(Effect effect, const std::vector<double>& shares) {
    Trial trial(std::make_shared<const Effect>(effect), order_.load(effect), order_.span, order_.make_draw());
    if (!run_({&trial, 1})) {
        return nullptr;
    }
    auto made = std::make_unique<Tried>(Tried{std::move(effect), shares, trial.figures(), trial.seen(), 0});
    made->load = load_of(order_, made->figures);
    tried_.push_back(std::move(made));
    told_(int(tried_.size()), most_runs_);
    return tried_.back().get();
}

// What relieves the fullest limit most for what one sees of it first: each is taken to its end alone.
std::optional<std::vector<size_t>> Search::order_of_giving(const Tried& as_it_is) {
    const size_t count = order_.numbers.size();
    std::vector<double> merit(count);
    for (size_t i = 0; i < count; ++i) {
        std::vector<double> alone(count, 0);
        alone[i] = 1;
        const Tried* given = tried(alone);
        if (given == nullptr) {
            return std::nullopt;
        }
        const double change = change_of(as_it_is.seen, given->seen, bare_);
        merit[i] = (as_it_is.load - given->load) / (double(order_.numbers[i].dearness) * change + 0.01);
    }
    std::vector<size_t> order(count);
    std::iota(order.begin(), order.end(), size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) { return merit[a] > merit[b]; });
    return order;
}

// The closest to the picture of those that hold; the fitted one as it is if none is closer.
const Search::Tried* Search::made_up(const Tried& before, const Tried& fitted) {
    const Tried* best = &fitted;
    for (const double power : make_up_powers) {
        Effect effect = stronger(fitted.effect, before.figures, fitted.figures, power);
        if (!order_.makes_up || effect == fitted.effect) {
            continue;
        }
        const Tried* made = run_of(std::move(effect), {});
        if (made == nullptr) {
            return nullptr;
        }
        const bool is_closer =
            change_of(before.seen, made->seen, bare_) < change_of(before.seen, best->seen, bare_);
        best = made->holds() && is_closer ? made : best;
    }
    return best;
}

FitResult Search::result_of(const Tried& before, const Tried& after) const {
    FitResult result;
    result.holds = after.holds();
    result.effect = after.effect;
    std::vector<FitNumber> numbers = order_.numbers;
    for (const Look& look : order_.effect->looks) {
        const FitNumber strength{look.id, strength_of(look)};
        const auto is_same = [&](const FitNumber& number) {
            return number.holder == strength.holder && number.parameter == strength.parameter;
        };
        if (std::none_of(numbers.begin(), numbers.end(), is_same)) {
            numbers.push_back(strength);
        }
    }
    for (const FitNumber& number : numbers) {
        const auto from = float(value_of(*order_.effect, number)),
                   to = float(value_of(result.effect, number));
        if (from != to) {
            const std::string label(parameter_of(*order_.effect, number)->label);
            result.changes.push_back(
                {number, find_holder(*order_.effect, number.holder)->name + ": " + label, from, to});
        }
    }
    result.before = before.figures;
    result.after = after.figures;
    result.kept = 1 - change_of(before.seen, after.seen, bare_);
    if (const size_t moment = most_different(before.seen, after.seen); moment < after.seen.size()) {
        result.picture_before = before.seen[moment].small;
        result.picture_after = after.seen[moment].small;
    }
    result.runs = int(tried_.size());
    std::vector<LimitReading> readings = readings_of(*order_.effect, after.figures);
    const auto fullest =
        std::max_element(readings.begin(), readings.end(),
                         [](const LimitReading& a, const LimitReading& b) { return a.share() < b.share(); });
    result.words = !result.holds ? "It does not fit: with every number at its end, " + words_of(*fullest)
                   : result.changes.empty() ? "It holds as it is: " + words_of(*fullest)
                                            : "It holds: " + words_of(*fullest);
    return result;
}

std::optional<FitResult> Search::found() {
    constexpr int halvings = 4;
    const size_t count = order_.numbers.size();
    most_runs_ = int(2 + count) + int(std::bit_width(count)) + 2 * halvings +
                 (order_.makes_up ? int(std::size(make_up_powers)) : 0);
    const auto stage = std::make_shared<const Effect>(bare(*order_.effect));
    Trial empty(stage, order_.load(*stage), order_.span, order_.make_draw());
    if (!run_({&empty, 1})) {
        return std::nullopt;
    }
    bare_ = empty.seen();
    const Tried* as_it_is = tried(std::vector<double>(count, 0));
    if (as_it_is == nullptr || as_it_is->holds() || count == 0) {
        return as_it_is != nullptr ? std::optional(result_of(*as_it_is, *as_it_is)) : std::nullopt;
    }
    const Tried* best = tried(std::vector<double>(count, 1));
    if (best == nullptr || !best->holds()) {
        return best != nullptr ? std::optional(result_of(*as_it_is, *best)) : std::nullopt;
    }
    const auto giving = order_of_giving(*as_it_is);
    if (!giving) {
        return std::nullopt;
    }
    // How many of them have to go to their ends,
    const auto given = [&](size_t whole, double next) {
        std::vector<double> shares(count, 0);
        for (size_t i = 0; i < whole; ++i) {
            shares[(*giving)[i]] = 1;
        }
        if (next > 0) {
            shares[(*giving)[whole]] = next;
        }
        return shares;
    };
    size_t too_few = 0, enough = count;
    while (enough - too_few > 1) {
        const size_t middle = (too_few + enough) / 2;
        const Tried* half = tried(given(middle, 0));
        if (half == nullptr) {
            return std::nullopt;
        }
        (half->holds() ? enough : too_few) = middle;
        best = half->holds() ? half : best;
    }
    // and how far the last of them.
    double too_little = 0, far_enough = 1;
    for (int i = 0; i < halvings; ++i) {
        const double share = (too_little + far_enough) / 2;
        const Tried* part = tried(given(enough - 1, share));
        if (part == nullptr) {
            return std::nullopt;
        }
        (part->holds() ? far_enough : too_little) = share;
        best = part->holds() ? part : best;
    }
    // Or all of them together, each by the same share of its way: sometimes that is seen less.
    too_little = 0;
    far_enough = 1;
    const Tried* together = tried(std::vector<double>(count, 1));
    for (int i = 0; i < halvings && together != nullptr; ++i) {
        const double share = (too_little + far_enough) / 2;
        const Tried* all = tried(std::vector<double>(count, share));
        if (all == nullptr) {
            return std::nullopt;
        }
        (all->holds() ? far_enough : too_little) = share;
        together = all->holds() ? all : together;
    }
    const auto seen_of = [&](const Tried& one) {
        double dearness = 0; // the mean of what is touched
        for (size_t i = 0; i < count; ++i) {
            dearness += one.shares[i] * double(order_.numbers[i].dearness);
        }
        return change_of(as_it_is->seen, one.seen, bare_) * dearness /
               std::max(std::accumulate(one.shares.begin(), one.shares.end(), 0.0), 1e-9);
    };
    const bool is_better = together != nullptr && seen_of(*together) < seen_of(*best);
    const Tried* made = made_up(*as_it_is, is_better ? *together : *best);
    return made != nullptr ? std::optional(result_of(*as_it_is, *made)) : std::nullopt;
}

} // namespace

std::vector<FitNumber> numbers_to_fit(const Effect& effect) {
    std::vector<FitNumber> numbers;
    const auto offer = [&](const std::string& holder, const char* parameter, float least) {
        const FitNumber number{holder, parameter, 0, 1};
        const double value = value_of(effect, number);
        const auto end = float(std::max(value * double(usual_end), double(least)));
        if (value > double(end)) {
            numbers.push_back({holder, parameter, end, 1});
        }
    };
    for (const Element& element : effect.elements) {
        if (!is_active(effect, element)) {
            continue;
        }
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
            if (emitter->parent.empty()) {
                offer(element.id, "rate", 0);
                offer(element.id, "burst_count", 1);
            } else {
                offer(element.id, emitter->when == ChildWhen::always ? "per_parent_rate" : "chance", 0);
            }
            const Look* look = find_look(effect, emitter->look);
            const auto is_offered = [&](const FitNumber& number) {
                return number.holder == emitter->look && number.parameter == "copies";
            };
            if (look != nullptr && look->copies > 0 &&
                std::none_of(numbers.begin(), numbers.end(), is_offered)) {
                offer(look->id, "copies", 0);
            }
        } else if (std::holds_alternative<Smoke>(element.body)) {
            offer(element.id, "resolution", 16);
        } else if (const auto* breakable = std::get_if<Breakable>(&element.body)) {
            if (breakable->pattern != CutPattern::courses) {
                offer(element.id, "pieces", 4);
            }
            offer(element.id, "again", 0);
            offer(element.id, "capacity", 10);
        }
    }
    return numbers;
}

std::optional<std::string> refusal_of(const Effect& effect, const FitNumber& number) {
    const Parameter* parameter = parameter_of(effect, number);
    if (parameter == nullptr) {
        return "there is no number " + number.holder + "." + number.parameter;
    }
    const double end = number.end;
    if (!std::isfinite(end) || end < parameter->hard_low || end > parameter->hard_high) {
        return "expected for its end " + expectation_of(*parameter);
    }
    if (!(number.dearness > 0) || !std::isfinite(number.dearness)) {
        return "expected a dearness above 0";
    }
    return std::nullopt;
}

std::vector<LimitReading> readings_of(const Effect& effect, const TrialFigures& figures) {
    const Budget& budget = effect.budget;
    std::vector<LimitReading> readings = {
        {"Frame", "ms", double(budget.frame_ms), figures.frame_ms()},
        {"Particles", "", double(budget.particles), double(figures.particles_most)},
        {"Memory", "MB", double(budget.memory_mb), double(figures.bytes_most) / 1e6}};
    const auto has = [&](auto is_one) {
        return std::any_of(effect.elements.begin(), effect.elements.end(), is_one);
    };
    if (has([](const Element& each) { return std::holds_alternative<Breakable>(each.body); })) {
        readings.push_back({"Pieces", "", double(budget.pieces), double(figures.pieces_most)});
        readings.push_back({"Awake pieces", "", double(budget.awake_pieces), double(figures.awake_most)});
        readings.push_back({"Linger time", "s", double(budget.linger_s), figures.linger_most_s});
    }
    if (has([](const Element& each) { return std::holds_alternative<Smoke>(each.body); })) {
        readings.push_back({"Smoke cells", "", double(budget.smoke_cells), double(figures.cells_most)});
    }
    return readings;
}

std::optional<FitResult> fit(const FitOrder& order, const RunTrials& run,
                             const std::function<void(int made, int most)>& told) {
    return Search(order, run, told).found();
}

} // namespace ember
