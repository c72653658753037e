// The page about the file format, from the parameter tables.
#include "core/effect/effect_file.h"

namespace ember {

namespace {

std::string cell(std::string text) {
    for (size_t at = 0; (at = text.find('|', at)) != std::string::npos; at += 2) {
        text.replace(at, 1, "\\|");
    }
    return text;
}

std::string described(std::span<const Parameter> parameters, const void* defaults) {
    std::string out =
        "| key | on screen | value | default | what it does |\n| --- | --- | --- | --- | --- |\n";
    for (const Parameter& parameter : parameters) {
        out += "| `" + std::string(parameter.key) + "` | " + std::string(parameter.group) + ": " +
               std::string(parameter.label) + " | " + expectation_of(parameter) + " | `" +
               cell(value_text(parameter, parameter.get(defaults))) + "` | " +
               cell(std::string(parameter.help)) + " |\n";
    }
    return out + "\n";
}

} // namespace

std::string describe_format() {
    std::string out =
        "# Effect files\n\n"
        "An effect is one JSON file (UTF-8, at most 64 MB), by convention `NAME.ember.json`. "
        "This page is generated from the\n"
        "program's own parameter tables; the program's tests say that it is current.\n\n"
        "| member | value |\n| --- | --- |\n"
        "| `format` | always `\"crisp-ember effect\"` |\n"
        "| `version` | " +
        std::to_string(effect_format_version) +
        " |\n"
        "| `name` | the effect's name |\n"
        "| `seed` | a whole number from 0 to 4294967295; the same seed gives the same run |\n"
        "| `elements` | a list, in the order of the board, of at most " +
        std::to_string(most_elements) +
        " |\n"
        "| `looks` | a list: how particles are drawn; sources name a look by its id |\n"
        "| `textures` | optionally a list, at most " +
        std::to_string(most_textures) +
        ": what layers of looks and the faces of breakables are laid with; named by id |\n"
        "| `drives` | optionally a list: what modulators set, see below |\n"
        "| `tracks` | optionally a list: what is keyed over time, see below |\n"
        "| `notes` | optionally a list: what the artist wants to remember, see below |\n"
        "| `stage` | light, background, camera, finishing |\n"
        "| `budget` | limits |\n\n"
        "An element has an `id` (unique, never changes), a `type`, a `name`, optionally "
        "`muted` and `solo`, the name of a `group` of rows, and `parameters`. A\n"
        "force or collider has `links`: an object that gives for the id of each linked source "
        "a weight from 0 to 1. A\n"
        "look or a texture has `id`, `name` and `parameters`. What is left out has its default. Members "
        "that a version does not know are\n"
        "kept and written back. Files that parameters name lie in the effect's own folder or below it.\n\n"
        "A drive has `of` (the id of an element or look, or `stage`), `parameter` (a key), for one end of a "
        "range "
        "or one part of\n"
        "a vector `part` (`low`, `high`, `x`, `y`, `z`), `by` (the id of a modulator) and `range`: what the "
        "number "
        "is while the\n"
        "modulator is at 0 and at 1.\n\n"
        "A track has `of` and `parameter`, as drives have. Numbers, ranges, vectors and colours have "
        "`curves`, "
        "one for\n"
        "each part (low and high; x, y, z; red, green, blue): lists of points as curves have them, with "
        "times "
        "in seconds.\n"
        "Choices, toggles and counts have `keys`: a list of `[time, value]`; each holds until the next. A "
        "number is what\n"
        "the effect has, then what its track says, then what a drive makes of it, then what a trigger has "
        "set.\n\n"
        "A note has `of` and `parameter`, as drives have, and a `text` of at most " +
        std::to_string(longest_text) +
        " bytes.\n\n"
        "Time zero ends the warm-up, which runs on negative time: all moments count from there. Version 1 "
        "counted from the\n"
        "beginning of the warm-up; its files are read with numbers that mean the same (starts, phases, "
        "first times). Only triggers\n"
        "that come *every* so often count from time zero now, and what a drive makes of a moment stays as "
        "it stands. Up to version 2\n"
        "every collider held every volume of smoke: read, it is linked to them.\n\n"
        "Units: metres, seconds, degrees; right-handed, Y up. Colours are linear light. Curves "
        "run smoothly through their\n"
        "points without overshoot, or bend by slopes or handles where a point gives them; ramps mix in "
        "linear "
        "light.\n\n";
    for (const ElementType& type : element_types()) {
        out += "## Element type `" + std::string(type.key) + "`\n\n" + std::string(type.help) + "\n\n";
        std::visit([&](const auto& body) { out += described(type.parameters, &body); }, type.prototype);
    }
    const Look look;
    const Texture texture;
    const Stage stage;
    const Budget budget;
    out += "## Looks\n\n" + described(look_parameters(), &look);
    out += "## Textures\n\n" + described(texture_parameters(), &texture);
    out += "## Stage\n\n" + described(stage_parameters(), &stage);
    out += "## Budget\n\n" + described(budget_parameters(), &budget);
    out.pop_back();
    return out;
}

} // namespace ember
