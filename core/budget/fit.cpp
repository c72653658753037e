#include "core/budget/fit.h"

#include "core/budget/fit_versions.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

constexpr int halvings = 4;
constexpr MakeUp by_both = {0.4, 0.3}, searched_with[] = {{1, 0}, {0, 0.5}};
constexpr MakeUp make_ups[] = {{}, {0.6, 0}, searched_with[0], searched_with[1], by_both};

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

// One search. Each version is tried once.
class Search {
  public:
    Search(const FitOrder& order, const RunTrials& run, const std::function<void(int, int)>& told)
        : order_(order), run_(run), told_(told) {}

    std::optional<FitResult> found();

  private:
    struct Tried { // the better of its runs
        Effect effect;
        std::vector<double> shares;
        TrialFigures figures;
        std::vector<SeenMoment> seen;
        double load = 0;
        bool holds() const { return load <= 1; }
    };
    Effect version(const std::vector<double>& shares) const;
    const Tried* known(const Effect& effect) const;
    Trial trial_of(const Effect& effect) const;
    const Tried* add(Effect effect, const std::vector<double>& shares, const Trial& trial);
    const Tried* tried(const std::vector<double>& shares);
    const Tried* made_up_best(const Tried& found);
    std::optional<std::vector<size_t>> order_of_giving();
    const Tried* in_order(const std::vector<size_t>& giving, const Tried* ends);
    const Tried* traded(const std::vector<size_t>& giving, const Tried* best);
    template <class Shares>
    const Tried* halved(Shares shares_at, const Tried* end);
    double loss_of(const Tried& one) const;
    FitResult result_of(const Tried& before, const Tried& after) const;

    const FitOrder& order_;
    const RunTrials& run_;
    const std::function<void(int, int)>& told_;
    std::vector<SeenMoment> bare_;
    std::vector<double> seen_; // of each number: how much of the picture changes with it at its end alone
    std::vector<std::unique_ptr<Tried>> tried_; // the first: as it is
    MakeUp make_up_;
    int most_tried_ = 0, runs_ = 0;
};

Effect Search::version(const std::vector<double>& shares) const {
    return made_up(*order_.effect, with_shares(*order_.effect, order_.numbers, shares), make_up_);
}

const Search::Tried* Search::known(const Effect& effect) const {
    const auto found =
        std::find_if(tried_.begin(), tried_.end(), [&](const auto& each) { return each->effect == effect; });
    return found != tried_.end() ? found->get() : nullptr;
}

Trial Search::trial_of(const Effect& effect) const {
    return {std::make_shared<const Effect>(effect), order_.load(effect), order_.span, order_.make_draw()};
}

const Search::Tried* Search::add(Effect effect, const std::vector<double>& shares, const Trial& trial) {
    const TrialFigures figures = trial.figures();
    tried_.push_back(std::make_unique<Tried>(
        Tried{std::move(effect), shares, figures, trial.seen(), load_of(order_, figures)}));
    told_(int(tried_.size()), most_tried_);
    return tried_.back().get();
}

// What comes out near the limit is run again: what disturbs a run makes it dearer, never cheaper.
const Search::Tried* Search::tried(const std::vector<double>& shares) {
    constexpr double near = 0.1;
    Effect effect = version(shares);
    if (const Tried* before = known(effect)) {
        return before;
    }
    std::optional<Trial> best;
    for (int i = 0; i < 2; ++i) {
        Trial trial = trial_of(effect);
        if (!run_({&trial, 1})) {
            return nullptr;
        }
        ++runs_;
        const double load = load_of(order_, trial.figures());
        if (!best || load < load_of(order_, best->figures())) {
            best.emplace(std::move(trial));
        }
        if (std::abs(load - 1) > near) {
            break;
        }
    }
    return add(std::move(effect), shares, *best);
}

// What relieves the fullest limit most for what one sees of it first: each is taken to its end alone, beside
// the effect as it is, so that what disturbs one disturbs both.
std::optional<std::vector<size_t>> Search::order_of_giving() {
    constexpr size_t most_at_once = 3;
    make_up_ = order_.makes_up ? by_both : MakeUp();
    const size_t count = order_.numbers.size();
    std::vector<double> merit(count);
    seen_.resize(count);
    for (size_t first = 0; first < count; first += most_at_once) {
        const size_t end = std::min(first + most_at_once, count);
        std::vector<std::vector<double>> shares;
        std::vector<Effect> versions;
        std::vector<Trial> trials;
        for (size_t i = first; i < end; ++i) {
            shares.emplace_back(count, 0)[i] = 1;
            versions.push_back(version(shares.back()));
            trials.push_back(trial_of(versions.back()));
        }
        trials.push_back(trial_of(*order_.effect));
        if (!run_(trials)) {
            return std::nullopt;
        }
        runs_ += int(trials.size());
        const double as_it_is = load_of(order_, trials.back().figures());
        for (size_t i = first; i < end; ++i) {
            const Trial& trial = trials[i - first];
            const double relief = as_it_is - load_of(order_, trial.figures());
            seen_[i] = change_of(tried_.front()->seen, trial.seen(), bare_);
            merit[i] = relief / (double(order_.numbers[i].dearness) * seen_[i] + 0.01);
            add(std::move(versions[i - first]), shares[i - first], trial);
        }
    }
    std::vector<size_t> order(count);
    std::iota(order.begin(), order.end(), size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) { return merit[a] > merit[b]; });
    return order;
}

// The closest to the picture of those that hold, whichever way what is left makes up.
const Search::Tried* Search::made_up_best(const Tried& found) {
    const auto change = [&](const Tried& one) { return change_of(tried_.front()->seen, one.seen, bare_); };
    const Tried* best = &found;
    for (const MakeUp& way : make_ups) {
        if (!order_.makes_up && way.is_any()) {
            break;
        }
        make_up_ = way;
        const Tried* made = tried(found.shares);
        if (made == nullptr) {
            return nullptr;
        }
        best = made->holds() && change(*made) < change(*best) ? made : best;
    }
    return best;
}

FitResult Search::result_of(const Tried& before, const Tried& after) const {
    FitResult result;
    result.holds = after.holds();
    result.effect = after.effect;
    const auto add = [&](const FitNumber& number, const Parameter& parameter, double from, double to) {
        const auto is_same = [&](const FitResult::Change& change) {
            return change.number.holder == number.holder && change.number.parameter == number.parameter;
        };
        if (from != to && std::none_of(result.changes.begin(), result.changes.end(), is_same)) {
            const std::string name = find_holder(*order_.effect, number.holder)->name;
            result.changes.push_back(
                {number, name + ": " + std::string(parameter.label), float(from), float(to)});
        }
    };
    const auto add_number = [&](const FitNumber& number) {
        add(number, *parameter_of(*order_.effect, number), value_of(*order_.effect, number),
            value_of(result.effect, number));
    };
    std::for_each(order_.numbers.begin(), order_.numbers.end(), add_number);
    for (const Look& look : order_.effect->looks) {
        add_number({look.id, strength_of(look)});
    }
    for (const Element& element : order_.effect->elements) {
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) { // the largest stands for both ends
            const auto& after_it = std::get<Emitter>(find_element(result.effect, element.id)->body);
            add({element.id, size_of_births}, *find_holder(result.effect, element.id)->find(size_of_births),
                double(emitter->particle_size.high), double(after_it.particle_size.high));
        }
    }
    result.before = before.figures;
    result.after = after.figures;
    result.kept = 1 - change_of(before.seen, after.seen, bare_);
    if (const size_t moment = most_different(before.seen, after.seen); moment < after.seen.size()) {
        result.picture_before = before.seen[moment].small;
        result.picture_after = after.seen[moment].small;
    }
    result.runs = runs_;
    std::vector<LimitReading> readings = readings_of(*order_.effect, after.figures);
    const auto fullest =
        std::max_element(readings.begin(), readings.end(),
                         [](const LimitReading& a, const LimitReading& b) { return a.share() < b.share(); });
    result.words = !result.holds ? "It does not fit: with every number at its end, " + words_of(*fullest)
                   : result.changes.empty() ? "It holds as it is: " + words_of(*fullest)
                                            : "It holds: " + words_of(*fullest);
    return result;
}

// How many of them have to go to their ends, and how far the last of them. `ends` holds.
const Search::Tried* Search::in_order(const std::vector<size_t>& giving, const Tried* ends) {
    const auto given = [&](size_t whole, double next) {
        std::vector<double> shares(giving.size(), 0);
        for (size_t i = 0; i < whole; ++i) {
            shares[giving[i]] = 1;
        }
        if (next > 0) {
            shares[giving[whole]] = next;
        }
        return shares;
    };
    const Tried* best = ends;
    size_t too_few = 0, enough = giving.size();
    while (enough - too_few > 1) {
        const size_t middle = (too_few + enough) / 2;
        const Tried* half = tried(given(middle, 0));
        if (half == nullptr) {
            return nullptr;
        }
        (half->holds() ? enough : too_few) = middle;
        best = half->holds() ? half : best;
    }
    return halved([&](double share) { return given(enough - 1, share); }, best);
}

// One that keeps more of the picture than `best` by a trade against the last of those that give: it gives
// less and another one all, or more and one of the others nothing.
const Search::Tried* Search::traded(const std::vector<size_t>& giving, const Tried* best) {
    constexpr size_t most_trades = 2; // of each kind
    const std::vector<double> shares = best->shares;
    const auto last_giving =
        std::find_if(giving.rbegin(), giving.rend(), [&](size_t i) { return shares[i] > 0; });
    if (last_giving == giving.rend()) {
        return best;
    }
    const size_t last = *last_giving;
    std::vector<size_t> others, given; // in the order of giving; what is seen most first
    for (const size_t i : giving) {
        (shares[i] > 0 ? given : others).push_back(i);
    }
    std::erase(given, last);
    std::stable_sort(given.begin(), given.end(), [&](size_t a, size_t b) { return seen_[a] > seen_[b]; });
    others.resize(std::min(others.size(), most_trades));
    given.resize(std::min(given.size(), most_trades));
    given.insert(given.end(), others.begin(), others.end());
    for (const size_t other : given) {
        const bool gives_back = shares[other] > 0;
        const auto trade = [&](double share) {
            std::vector<double> traded = shares;
            traded[other] = gives_back ? 0 : 1;
            traded[last] = gives_back ? shares[last] + (1 - shares[last]) * share : shares[last] * share;
            return traded;
        };
        const Tried* end = tried(trade(1));
        const Tried* least = end != nullptr && end->holds() ? halved(trade, end) : end;
        if (least == nullptr) {
            return nullptr;
        }
        best = least->holds() && loss_of(*least) < loss_of(*best) ? least : best;
    }
    return best;
}

// The least share of a way that holds, if its end does.
template <class Shares>
const Search::Tried* Search::halved(Shares shares_at, const Tried* end) {
    const Tried* best = end;
    double too_little = 0, enough = 1;
    for (int i = 0; i < halvings; ++i) {
        const double share = (too_little + enough) / 2;
        const Tried* part = tried(shares_at(share));
        if (part == nullptr) {
            return nullptr;
        }
        (part->holds() ? enough : too_little) = share;
        best = part->holds() ? part : best;
    }
    return best;
}

// Of the picture, as dear as what is touched is in the mean.
double Search::loss_of(const Tried& one) const {
    double dearness = 0, shares = 0;
    for (size_t i = 0; i < one.shares.size(); ++i) {
        dearness += one.shares[i] * double(order_.numbers[i].dearness);
        shares += one.shares[i];
    }
    return change_of(tried_.front()->seen, one.seen, bare_) * dearness / std::max(shares, 1e-9);
}

std::optional<FitResult> Search::found() {
    const size_t count = order_.numbers.size();
    most_tried_ = int(5 + count + std::size(make_ups)) +
                  int(std::size(searched_with)) * int(std::bit_width(count) + halvings) + 4 * (1 + halvings) +
                  halvings;
    Trial empty = trial_of(bare(*order_.effect));
    if (!run_({&empty, 1})) {
        return std::nullopt;
    }
    bare_ = empty.seen();
    const Tried* as_it_is = tried(std::vector<double>(count, 0));
    if (as_it_is == nullptr || as_it_is->holds() || count == 0) {
        return as_it_is != nullptr ? std::optional(result_of(*as_it_is, *as_it_is)) : std::nullopt;
    }
    const std::vector<double> ends(count, 1);
    const Tried* best = tried(ends);
    if (best == nullptr || !best->holds()) {
        return best != nullptr ? std::optional(result_of(*as_it_is, *best)) : std::nullopt;
    }
    const auto giving = order_of_giving();
    if (!giving) {
        return std::nullopt;
    }
    MakeUp way;
    for (const MakeUp& searched : searched_with) {
        make_up_ = order_.makes_up ? searched : MakeUp();
        const Tried* end = tried(ends);
        const Tried* some =
            end != nullptr && end->holds() ? in_order(*giving, end) : end; // larger ones cost more
        if (some == nullptr) {
            return std::nullopt;
        }
        if (some->holds() && loss_of(*some) < loss_of(*best)) {
            best = some;
            way = make_up_;
        }
    }
    make_up_ = way;
    best = traded(*giving, best);
    if (best == nullptr) {
        return std::nullopt;
    }
    // Or all of them together, each by the same share of its way: sometimes that is seen less.
    const Tried* together =
        halved([&](double share) { return std::vector<double>(count, share); }, tried(ends));
    if (together == nullptr) {
        return std::nullopt;
    }
    const Tried* made = made_up_best(loss_of(*together) < loss_of(*best) ? *together : *best);
    return made != nullptr ? std::optional(result_of(*as_it_is, *made)) : std::nullopt;
}

} // namespace

std::optional<FitResult> fit(const FitOrder& order, const RunTrials& run,
                             const std::function<void(int made, int most)>& told) {
    return Search(order, run, told).found();
}

} // namespace ember
