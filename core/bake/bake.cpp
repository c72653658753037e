#include "core/bake/bake.h"

#include "core/base/file.h"
#include "core/effect/effect_file.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <iomanip>
#include <sstream>

namespace ember {

namespace {

using Json = nlohmann::ordered_json;

constexpr const char* format_name = "crisp-ember bake";
constexpr int format_version = 1;
constexpr int most_frames = 216'000; // an hour

const std::string manifest_name = "bake.json";

// FNV-1a (Fowler, Noll, Vo), 64 bits.
std::string hash_text(const std::string& text) {
    uint64_t hash = 14695981039346656037u;
    for (const char c : text) {
        hash = (hash ^ uint8_t(c)) * 1099511628211u;
    }
    std::ostringstream out;
    out << std::hex << std::setw(16) << std::setfill('0') << hash;
    return out.str();
}

std::string text_of_run(const BakeOrder& order) {
    return order.take ? takes_text({*order.take}) : effect_text(*order.effect);
}

const Effect& first_effect(const BakeOrder& order) {
    return order.take ? *order.take->effect_at(0) : *order.effect;
}

Json manifest_of(const BakeOrder& order, const BakeWriters& writers) {
    const Effect& effect = first_effect(order);
    Json json;
    json["format"] = format_name;
    json["version"] = format_version;
    json["is_complete"] = false;
    json["effect"] = effect.name;
    json["run_hash"] = hash_text(text_of_run(order));
    json["seed"] = effect.seed;
    json["span_s"] = {order.span.from_s, order.span.to_s};
    json["frames_per_s"] = order.frames_per_s;
    json["frames"] = order.frames();
    json["sources"] = order.sources;
    json["axes"] = "right-handed, y up";
    json["units"] = "metres, seconds, kilograms, kelvin above the air around; light is linear";
    json["files"] = Json::array();
    for (const auto& writer : writers) {
        const BakedFiles files = writer->files();
        Json each;
        each["kind"] = files.kind;
        each["files"] = files.files;
        for (const auto& [key, value] : files.facts) {
            each[key] = value;
        }
        if (!files.beside.empty()) {
            each["beside"] = files.beside;
        }
        json["files"].push_back(std::move(each));
    }
    return json;
}

std::optional<Problem> write_manifest(const Json& json, const std::filesystem::path& folder) {
    return write_file(folder / manifest_name, [&](std::ostream& stream) { stream << json.dump(1) << "\n"; });
}

// What a bake that was killed has left half written.
bool is_unfinished(const std::filesystem::path& path) {
    const std::string extension = path.extension().string();
    return extension.starts_with(".part") && extension.size() > 5 &&
           std::all_of(extension.begin() + 5, extension.end(), [](char c) { return c >= '0' && c <= '9'; });
}

void remove_unfinished(const std::filesystem::path& folder) {
    std::error_code error;
    std::vector<std::filesystem::path> left;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder, error)) {
        if (is_unfinished(entry.path())) {
            left.push_back(entry.path());
        }
    }
    for (const auto& path : left) {
        std::filesystem::remove(path, error);
    }
}

// What a bake has written by a pattern, file by file: whatever else lies there stays, and nothing outside is
// touched, whatever the pattern says.
void remove_files(const std::filesystem::path& folder, const std::string& pattern) {
    const std::filesystem::path relative = pattern;
    const bool is_inside = relative.is_relative() && relative.has_filename() &&
                           std::none_of(relative.begin(), relative.end(),
                                        [](const auto& part) { return part == ".." || part == "."; });
    if (!is_inside) {
        return;
    }
    std::error_code error;
    const std::string name = relative.filename().string();
    const auto at = name.find("%05d");
    if (at == std::string::npos) {
        if (std::filesystem::is_regular_file(folder / relative, error)) {
            std::filesystem::remove(folder / relative, error);
        }
        return;
    }
    const std::string before = name.substr(0, at), after = name.substr(at + 4);
    std::vector<std::filesystem::path> found;
    for (const auto& entry : std::filesystem::directory_iterator(folder / relative.parent_path(), error)) {
        const std::string each = entry.path().filename().string();
        const bool fits = each.size() >= before.size() + after.size() + 5 && each.starts_with(before) &&
                          each.ends_with(after) &&
                          std::all_of(each.begin() + long(before.size()), each.end() - long(after.size()),
                                      [](char c) { return c >= '0' && c <= '9'; });
        if (fits && entry.is_regular_file(error)) {
            found.push_back(entry.path());
        }
    }
    for (const auto& path : found) {
        std::filesystem::remove(path, error);
    }
}

Problem refusal(const BakeOrder& order, std::string place, std::string found, std::string expected) {
    return {order.folder.string(), 0, std::move(place), std::move(found), std::move(expected)};
}

std::optional<Problem> refusal_of(const BakeOrder& order, const BakeWriters& writers) {
    const bool is_rate =
        std::isfinite(order.frames_per_s) && order.frames_per_s >= 0.1 && order.frames_per_s <= 60;
    if (!is_rate) {
        return refusal(order, "frames per second", std::to_string(order.frames_per_s), "0.1 to 60");
    }
    const bool is_span =
        std::isfinite(order.span.from_s) && std::isfinite(order.span.to_s) && order.span.from_s >= 0;
    const double frames = (order.span.to_s - order.span.from_s) * order.frames_per_s;
    if (!is_span || frames > most_frames || order.frames() < 1) {
        return refusal(order, "span",
                       std::to_string(order.span.from_s) + " s to " + std::to_string(order.span.to_s) + " s",
                       "1 to " + std::to_string(most_frames) + " frames, from 0 s or later");
    }
    const Stage& stage = first_effect(order).stage;
    const double end_s = order.take
                             ? double(order.take->steps()) / 60 - std::round(double(stage.warm_up) * 60) / 60
                             : double(stage.length);
    constexpr double one_frame_s = 1.0 / 60;
    if (end_s > 0 && order.span.to_s > end_s + one_frame_s) {
        return refusal(order, "span", text_of(float(order.span.to_s)) + " s",
                       std::string("at most ") + text_of(float(end_s)) + " s, where the " +
                           (order.take ? "take" : "effect") + " ends");
    }
    if (writers.empty()) {
        return refusal(order, "kinds", "none", "at least one kind of files to write");
    }
    const Effect& effect = first_effect(order);
    for (const std::string& id : order.sources) {
        if (find_element(effect, id) == nullptr) {
            return refusal(order, "sources", "\"" + id + "\"", "the id of an element of the effect");
        }
    }
    for (const auto& writer : writers) {
        if (const auto lack = writer->lack()) {
            return refusal(order, "kinds", "an effect without " + *lack,
                           "sources of that kind, or other kinds of files");
        }
    }
    return std::nullopt;
}

// Makes the folder ready: it holds this bake, begun or not, and nothing of another.
std::optional<Problem> claim_folder(const BakeOrder& order, const Json& manifest) {
    std::error_code error;
    const std::filesystem::path& folder = order.folder;
    if (std::filesystem::exists(folder, error) && !std::filesystem::is_directory(folder, error)) {
        return refusal(order, "", "a file", "the name of a folder");
    }
    std::filesystem::create_directories(folder, error);
    if (error) {
        return refusal(order, "", "a place that cannot be written (" + error.message() + ")",
                       "a folder you may write to");
    }
    const std::filesystem::path path = folder / manifest_name;
    if (!std::filesystem::exists(path, error)) {
        // Not even if it is to replace a bake: this is none, unless it was killed before its manifest was
        // whole.
        for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
            if (entry.path().stem() != manifest_name || !is_unfinished(entry.path())) {
                return refusal(order, "", "a folder with other files in it", "an empty or new folder");
            }
        }
        remove_unfinished(folder);
        return write_manifest(manifest, folder);
    }
    Problems problems;
    const auto text = read_file(path, 64 << 20, problems);
    Json before = text ? Json::parse(*text, nullptr, false) : Json();
    if (before.is_object()) {
        before["is_complete"] = false;
    }
    if (before == manifest) {
        remove_unfinished(folder);
        return std::nullopt;
    }
    if (!order.replaces) {
        return refusal(order, "", "another bake", "another folder; or ask to replace what is there");
    }
    remove_unfinished(folder);
    const auto remove_named = [&](const Json& name) {
        if (name.is_string()) {
            remove_files(folder, name.get<std::string>());
        }
    };
    for (const Json& each : before.is_object() ? before.value("files", Json::array()) : Json::array()) {
        if (each.is_object()) {
            remove_named(each.value("files", Json()));
            const Json beside = each.value("beside", Json::array());
            std::for_each(beside.begin(), beside.end(), remove_named);
        }
    }
    return write_manifest(manifest, folder);
}

std::optional<Problem> refusal_of_room(const BakeOrder& order, const BakeWriters& writers) {
    uint64_t needed = 0;
    for (const auto& writer : writers) {
        int missing = 0;
        for (int frame = 0; frame < order.frames(); ++frame) {
            missing += writer->has(frame) ? 0 : 1;
        }
        needed += writer->bytes_of_frame() * uint64_t(missing);
    }
    std::error_code error;
    const auto space = std::filesystem::space(order.folder, error);
    if (error || needed <= space.available) {
        return std::nullopt;
    }
    const auto megabytes = [](uint64_t bytes) { return std::to_string(bytes >> 20) + " MB"; };
    return refusal(order, "", megabytes(space.available) + " free on the disk",
                   "about " + megabytes(needed) + "; fewer or smaller frames, or another disk");
}

} // namespace

int BakeOrder::frames() const {
    const double count = (span.to_s - span.from_s) * frames_per_s;
    return count > 0 && count <= most_frames ? int(std::ceil(count - 1e-6)) : 0;
}

uint64_t BakeOrder::step_of(int frame) const {
    return uint64_t(std::llround((span.from_s + frame / frames_per_s) * 60));
}

bool BakeOrder::has(const std::string& source) const {
    return sources.empty() || std::find(sources.begin(), sources.end(), source) != sources.end();
}

std::filesystem::path file_of_frame(const BakeOrder& order, const std::string& pattern, int frame) {
    const auto at = pattern.find("%05d");
    char number[16];
    std::snprintf(number, sizeof number, "%05d", frame);
    return order.folder /
           (at == std::string::npos ? pattern : pattern.substr(0, at).append(number).append(pattern, at + 4));
}

BakeResult bake(const BakeOrder& order, const BakeWriters& writers, const Progress& progress) {
    BakeResult result;
    if ((result.problem = refusal_of(order, writers))) {
        return result;
    }
    Json manifest = manifest_of(order, writers);
    if ((result.problem = claim_folder(order, manifest))) {
        return result;
    }
    if ((result.problem = refusal_of_room(order, writers))) {
        return result;
    }
    for (const auto& writer : writers) {
        const std::filesystem::path files = file_of_frame(order, writer->files().files, 0);
        std::error_code error;
        std::filesystem::create_directories(files.parent_path(), error);
    }
    const int frames = order.frames();
    int needed = 0; // the frames before this
    for (int frame = 0; frame < frames; ++frame) {
        const bool is_there = std::all_of(writers.begin(), writers.end(),
                                          [&](const auto& writer) { return writer->has(frame); });
        needed = is_there ? needed : frame + 1;
    }
    Simulation simulation;
    simulation.set_effect(order.take ? order.take->effect_at(0) : order.effect, order.assets);
    Frame frame;
    for (int number = 0; number < needed; ++number) {
        const uint64_t step = simulation.warm_up_steps() + order.step_of(number);
        while (simulation.steps() < step) {
            const std::string words = "frame " + std::to_string(number + 1) + " of " + std::to_string(frames);
            const double share =
                double(simulation.steps()) / double(simulation.warm_up_steps() + order.step_of(needed));
            if (!progress.goes_on(words, float(share))) {
                result.is_cancelled = true;
                return result;
            }
            simulation.step(order.take && simulation.steps() < order.take->steps()
                                ? inputs_of_step(*order.take, simulation)
                                : StepInputs());
        }
        simulation.write_frame(frame);
        for (const auto& writer : writers) {
            if (!writer->has(number) && (result.problem = writer->add(simulation, frame, number))) {
                return result;
            }
        }
        result.frames = number + 1;
    }
    for (const auto& writer : writers) {
        if ((result.problem = writer->end())) {
            return result;
        }
    }
    result.frames = frames;
    manifest["is_complete"] = true;
    result.problem = write_manifest(manifest, order.folder);
    return result;
}

} // namespace ember
