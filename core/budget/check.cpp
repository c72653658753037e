#include "core/budget/check.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ember {

std::vector<LimitReading> BudgetCheck::worst() const {
    std::vector<LimitReading> worst;
    for (const CheckedRun& run : runs) {
        for (size_t i = 0; i < run.readings.size(); ++i) {
            if (i >= worst.size()) {
                worst.push_back(run.readings[i]);
            } else if (run.readings[i].share() > worst[i].share()) {
                worst[i] = run.readings[i];
            }
        }
    }
    return worst;
}

bool BudgetCheck::is_over() const {
    const std::vector<LimitReading> readings = worst();
    return std::any_of(readings.begin(), readings.end(),
                       [](const LimitReading& reading) { return reading.share() > 1; });
}

CheckedRun checked(const Effect& effect, const Trial& trial) {
    constexpr size_t most_parts = 240;
    CheckedRun run;
    const TrialFigures figures = trial.figures();
    run.seed = effect.seed;
    run.readings = readings_of(effect, figures);
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        run.elements.push_back(
            {effect.elements[i].id, effect.elements[i].name, figures.element_ms[i], figures.element_most[i]});
    }
    const std::vector<float>& steps = trial.step_ms();
    const size_t parts = std::min(steps.size(), most_parts);
    for (size_t i = 0; i < parts; ++i) {
        run.step_ms.push_back(
            *std::max_element(steps.begin() + std::ptrdiff_t(i * steps.size() / parts),
                              steps.begin() + std::ptrdiff_t((i + 1) * steps.size() / parts)));
    }
    if (!trial.seen().empty()) {
        run.picture = trial.seen().back().small;
    }
    return run;
}

std::vector<CostChange> cost_changes(const BudgetCheck& before, const BudgetCheck& now) {
    std::map<std::string, CostChange> by_id;
    const auto add = [&](const BudgetCheck& check, double CostChange::*ms, size_t CostChange::*most) {
        for (const CheckedRun& run : check.runs) {
            for (const CheckedElement& element : run.elements) {
                CostChange& known = by_id[element.id];
                known.name = element.name;
                known.*ms += element.ms / double(check.runs.size());
                known.*most = std::max(known.*most, element.most);
            }
        }
    };
    add(before, &CostChange::before_ms, &CostChange::before_most);
    add(now, &CostChange::now_ms, &CostChange::now_most);
    std::vector<CostChange> grown;
    for (const auto& [id, each] : by_id) {
        grown.push_back(each);
    }
    std::stable_sort(grown.begin(), grown.end(), [](const CostChange& a, const CostChange& b) {
        return a.now_ms - a.before_ms > b.now_ms - b.before_ms;
    });
    return grown;
}

} // namespace ember
