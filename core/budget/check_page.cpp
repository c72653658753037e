// Checks of budgets as a page for people.
#include "core/budget/check.h"

#include "core/base/markup.h"
#include "core/effect/parameter.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr const char* style = R"(
body { background: #15191c; color: #e8e1d3; font: 15px/1.5 Inter, sans-serif; margin: 2em auto; max-width: 64em; }
h1 { font-size: 1.5em; } h2 { font-size: 1.15em; margin-top: 2.2em; }
table { border-collapse: collapse; width: 100%; margin: 0.6em 0 1.2em; }
th { color: #9aa4a6; font-weight: normal; text-align: left; }
th, td { border-bottom: 1px solid #313b41; padding: 0.25em 0.8em 0.25em 0; }
td.figure, th.figure { text-align: right; font-family: "JetBrains Mono", monospace; }
.within { color: #57b8a3; } .over { color: #ff8d8b; font-weight: bold; } .quiet { color: #9aa4a6; }
svg { background: #1c2226; display: block; width: 100%; height: auto; }
)";

std::string figure(double value, int decimals = 2) {
    const double by = std::pow(10.0, value >= 1000 ? 0 : decimals);
    return text_of(float(std::round(value * by) / by));
}

// The steps of each run against the limit that a frame has.
void write_plot(const BudgetCheck& check, std::ostream& stream) {
    constexpr double width = 960, height = 180;
    constexpr const char* colours[] = {"#ff7f45", "#8fa6c4", "#57b8a3", "#e7b24c", "#c9b48a"};
    double limit = 0, most = 0;
    for (const CheckedRun& run : check.runs) {
        for (const LimitReading& reading : run.readings) {
            limit = reading.name == "Frame" ? reading.limit : limit;
        }
        for (const float ms : run.step_ms) {
            most = std::max(most, double(ms));
        }
    }
    const double top = std::max(most, limit) * 1.1;
    const auto y_of = [&](double ms) { return height - ms / std::max(top, 1e-9) * height; };
    stream << "<svg viewBox=\"0 0 " << width << " " << height
           << "\" role=\"img\" aria-label=\"Milliseconds of the steps\">\n";
    stream << "<line x1=\"0\" x2=\"" << width << "\" y1=\"" << y_of(limit) << "\" y2=\"" << y_of(limit)
           << "\" stroke=\"#e7b24c\" stroke-dasharray=\"6 4\"/>\n<text x=\"6\" y=\"" << y_of(limit) - 5
           << "\" fill=\"#e7b24c\" font-size=\"12\">" << figure(limit) << " ms for step and picture</text>\n";
    for (size_t r = 0; r < check.runs.size(); ++r) {
        const std::vector<float>& steps = check.runs[r].step_ms;
        stream << "<polyline fill=\"none\" stroke=\"" << colours[r % std::size(colours)]
               << "\" stroke-width=\"1.3\" points=\"";
        for (size_t i = 0; i < steps.size(); ++i) {
            stream << figure(double(i) * width / double(std::max(steps.size() - 1, size_t(1))), 1) << ","
                   << figure(y_of(double(steps[i])), 1) << " ";
        }
        stream << "\"/>\n";
    }
    stream << "</svg>\n<p class=\"quiet\">Milliseconds of the steps from " << figure(check.span.from_s)
           << " s to " << figure(check.span.to_s) << " s, a line for each seed.</p>\n";
}

void write_limits(const BudgetCheck& check, const BudgetCheck* before, std::ostream& stream) {
    stream << "<table><tr><th>Limit</th><th class=\"figure\">allowed</th><th class=\"figure\">measured</th>"
           << (before != nullptr ? "<th class=\"figure\">before</th>" : "") << "<th></th></tr>\n";
    const std::vector<LimitReading> old = before != nullptr ? before->worst() : std::vector<LimitReading>();
    for (const LimitReading& reading : check.worst()) {
        const bool is_over = reading.share() > 1;
        stream << "<tr><td>" << reading.name << (reading.unit.empty() ? "" : ", " + reading.unit)
               << "</td><td class=\"figure\">" << figure(reading.limit) << "</td><td class=\"figure\">"
               << figure(reading.measured) << "</td>";
        if (before != nullptr) {
            const auto same = std::find_if(
                old.begin(), old.end(), [&](const LimitReading& each) { return each.name == reading.name; });
            stream << "<td class=\"figure\">" << (same != old.end() ? figure(same->measured) : "") << "</td>";
        }
        stream << "<td class=\"" << (is_over ? "over\">over" : "within\">within") << "</td></tr>\n";
    }
    stream << "</table>\n";
}

void write_elements(const BudgetCheck& check, const BudgetCheck* before, std::ostream& stream) {
    std::vector<CostChange> rows = cost_changes(before != nullptr ? *before : BudgetCheck(), check);
    stream << "<table><tr><th>Element</th><th class=\"figure\">ms a step</th><th class=\"figure\">at the "
              "most</th>"
           << (before != nullptr ? "<th class=\"figure\">ms before</th><th class=\"figure\">grown by</th>"
                                 : "")
           << "</tr>\n";
    constexpr double least_ms = 0.0005;
    for (const CostChange& row : rows) {
        if (row.now_ms < least_ms && row.before_ms < least_ms && row.now_most == 0) {
            continue;
        }
        stream << "<tr><td>" << markup_text(row.name) << "</td><td class=\"figure\">" << figure(row.now_ms, 3)
               << "</td><td class=\"figure\">" << (row.now_most > 0 ? std::to_string(row.now_most) : "")
               << "</td>";
        if (before != nullptr) {
            stream << "<td class=\"figure\">" << figure(row.before_ms, 3) << "</td><td class=\"figure\">"
                   << figure(row.now_ms - row.before_ms, 3) << "</td>";
        }
        stream << "</tr>\n";
    }
    stream << "</table>\n";
}

} // namespace

void write_page(const std::vector<BudgetCheck>& checks, const std::vector<BudgetCheck>& before,
                std::ostream& stream) {
    const auto over =
        std::count_if(checks.begin(), checks.end(), [](const BudgetCheck& each) { return each.is_over(); });
    stream << "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Budgets</title><style>"
           << style << "</style></head><body>\n<h1>Budgets: "
           << (over == 0 ? std::string("all within")
                         : std::to_string(over) + " of " + std::to_string(checks.size()) + " over")
           << "</h1>\n";
    for (const BudgetCheck& check : checks) {
        const auto same = std::find_if(before.begin(), before.end(),
                                       [&](const BudgetCheck& each) { return each.file == check.file; });
        const BudgetCheck* old = same != before.end() ? &*same : nullptr;
        stream << "<h2>" << markup_text(check.effect) << " <span class=\"quiet\">" << markup_text(check.file)
               << "</span></h2>\n";
        write_limits(check, old, stream);
        write_plot(check, stream);
        write_elements(check, old, stream);
    }
    stream << "</body></html>\n";
}

} // namespace ember
