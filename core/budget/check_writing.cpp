// Checks of budgets as files for programs.
#include "core/budget/check.h"

#include "core/base/file.h"
#include "core/base/markup.h"
#include "core/effect/parameter.h"

#include <nlohmann/json.hpp>

#include <cmath>

namespace ember {

namespace {

using Json = nlohmann::ordered_json;

constexpr const char* check_format = "crisp-ember budget check";
constexpr int check_version = 1;

// Enough digits for what is measured.
double rounded(double value) {
    return std::round(value * 10000) / 10000;
}

Json json_of(const CheckedRun& run) {
    Json json;
    json["seed"] = run.seed;
    json["limits"] = Json::array();
    for (const LimitReading& reading : run.readings) {
        json["limits"].push_back({{"name", reading.name},
                                  {"unit", reading.unit},
                                  {"limit", rounded(reading.limit)},
                                  {"measured", rounded(reading.measured)}});
    }
    json["elements"] = Json::array();
    for (const CheckedElement& element : run.elements) {
        json["elements"].push_back({{"id", element.id},
                                    {"name", element.name},
                                    {"ms", rounded(element.ms)},
                                    {"most", element.most}});
    }
    json["step_ms"] = Json::array();
    for (const float ms : run.step_ms) {
        json["step_ms"].push_back(rounded(double(ms)));
    }
    return json;
}

CheckedRun run_from(const Json& json) {
    CheckedRun run;
    run.seed = json.at("seed").get<uint32_t>();
    for (const Json& each : json.at("limits")) {
        run.readings.push_back({each.at("name").get<std::string>(), each.at("unit").get<std::string>(),
                                each.at("limit").get<double>(), each.at("measured").get<double>()});
    }
    for (const Json& each : json.at("elements")) {
        run.elements.push_back({each.at("id").get<std::string>(), each.at("name").get<std::string>(),
                                each.at("ms").get<double>(), each.at("most").get<size_t>()});
    }
    for (const Json& each : json.at("step_ms")) {
        run.step_ms.push_back(each.get<float>());
    }
    return run;
}

} // namespace

void write_json(const std::vector<BudgetCheck>& checks, std::ostream& stream) {
    Json root = {{"format", check_format}, {"version", check_version}, {"checks", Json::array()}};
    for (const BudgetCheck& check : checks) {
        Json runs = Json::array();
        for (const CheckedRun& run : check.runs) {
            runs.push_back(json_of(run));
        }
        root["checks"].push_back({{"file", check.file},
                                  {"effect", check.effect},
                                  {"from_s", check.span.from_s},
                                  {"to_s", check.span.to_s},
                                  {"over", check.is_over()},
                                  {"runs", std::move(runs)}});
    }
    stream << root.dump(1, ' ', false, Json::error_handler_t::replace) << "\n";
}

void write_csv(const std::vector<BudgetCheck>& checks, std::ostream& stream) {
    stream << "file,effect,seed,limit,unit,allowed,measured,over\n";
    for (const BudgetCheck& check : checks) {
        for (const CheckedRun& run : check.runs) {
            for (const LimitReading& reading : run.readings) {
                stream << csv_cell(check.file) << "," << csv_cell(check.effect) << "," << run.seed << ","
                       << csv_cell(reading.name) << "," << csv_cell(reading.unit) << ","
                       << rounded(reading.limit) << "," << rounded(reading.measured) << ","
                       << (reading.share() > 1 ? "yes" : "no") << "\n";
            }
        }
    }
}

void write_xml(const std::vector<BudgetCheck>& checks, std::ostream& stream) {
    stream << "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n";
    for (const BudgetCheck& check : checks) {
        const std::vector<LimitReading> readings = check.worst();
        const auto over = std::count_if(readings.begin(), readings.end(),
                                        [](const LimitReading& reading) { return reading.share() > 1; });
        stream << " <testsuite name=\"" << markup_text(check.file) << "\" tests=\"" << readings.size()
               << "\" failures=\"" << over << "\">\n";
        for (const LimitReading& reading : readings) {
            stream << "  <testcase classname=\"" << markup_text(check.effect) << "\" name=\""
                   << markup_text(reading.name) << "\"";
            if (reading.share() > 1) {
                const std::string unit = reading.unit.empty() ? "" : " " + reading.unit;
                stream << "><failure message=\"" << text_of(float(rounded(reading.measured))) << unit
                       << ", allowed " << text_of(float(rounded(reading.limit))) << unit
                       << "\"/></testcase>\n";
            } else {
                stream << "/>\n";
            }
        }
        stream << " </testsuite>\n";
    }
    stream << "</testsuites>\n";
}

std::vector<BudgetCheck> read_checks(const std::filesystem::path& path, Problems& problems) {
    constexpr uint64_t most_bytes = uint64_t(64) << 20;
    const auto text = read_file(path, most_bytes, problems);
    if (!text) {
        return {};
    }
    const auto refuse = [&](const std::string& found) {
        problems.push_back({path.string(), 0, "", found, "a report of check-budget, written as .json"});
        return std::vector<BudgetCheck>();
    };
    try {
        const Json root = Json::parse(*text);
        if (!root.is_object() || root.value("format", "") != check_format) {
            return refuse("another kind of file");
        }
        if (const int version = root.value("version", 0); version != check_version) {
            return refuse("version " + std::to_string(version));
        }
        std::vector<BudgetCheck> checks;
        for (const Json& each : root.at("checks")) {
            BudgetCheck check;
            check.file = each.at("file").get<std::string>();
            check.effect = each.at("effect").get<std::string>();
            check.span = {each.at("from_s").get<double>(), each.at("to_s").get<double>()};
            for (const Json& run : each.at("runs")) {
                check.runs.push_back(run_from(run));
            }
            checks.push_back(std::move(check));
        }
        return checks;
    } catch (const nlohmann::json::exception& error) {
        return refuse(error.what());
    }
}

} // namespace ember
