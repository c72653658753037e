// Whether an effect keeps within its budget: runs of it against each limit, to be written for people and for
// build pipelines.
#pragma once

#include "core/base/problem.h"
#include "core/budget/fit.h"

#include <filesystem>
#include <ostream>

namespace ember {

struct CheckedElement {
    std::string id, name;
    double ms = 0;   // the mean of a step
    size_t most = 0; // particles, pieces or cells of smoke, at the most
};

struct CheckedRun {
    uint32_t seed = 0;
    std::vector<LimitReading> readings;
    std::vector<CheckedElement> elements; // in the order of the effect
    std::vector<float> step_ms;           // over the span: the dearest step of each of at most 240 parts
    SmallPicture picture;                 // at the end of the span
};

struct BudgetCheck {
    std::string file, effect;
    Span span;
    std::vector<CheckedRun> runs;

    /// Of each limit the run that comes nearest to it, or is over it by the most.
    std::vector<LimitReading> worst() const;
    bool is_over() const;
};

/// Notes what a trial, run to its end, has come to.
CheckedRun checked(const Effect& effect, const Trial& trial);

/// See docs/budget-checks.md.
void write_json(const std::vector<BudgetCheck>& checks, std::ostream& stream);
/// A line for each limit of each run.
void write_csv(const std::vector<BudgetCheck>& checks, std::ostream& stream);
/// As build servers read the results of tests: a suite for each effect, a case for each limit.
void write_xml(const std::vector<BudgetCheck>& checks, std::ostream& stream);
/// One page of HTML that needs nothing else. `before`: an earlier report, to tell what has grown; may be
/// empty.
void write_page(const std::vector<BudgetCheck>& checks, const std::vector<BudgetCheck>& before,
                std::ostream& stream);

/// What write_json() wrote; without its pictures.
std::vector<BudgetCheck> read_checks(const std::filesystem::path& path, Problems& problems);

/// How an element's cost has changed from one report to the next: by the mean of the runs.
struct CostChange {
    std::string name;
    double before_ms = 0, now_ms = 0;
    size_t before_most = 0, now_most = 0;
};
/// Of one effect, what has grown the most first; elements that are new count from 0, those that have gone to
/// 0.
std::vector<CostChange> cost_changes(const BudgetCheck& before, const BudgetCheck& now);

} // namespace ember
