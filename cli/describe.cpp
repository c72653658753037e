#include "cli/commands.h"

#include "core/effect/effect_file.h"

#include <iostream>

namespace ember {

namespace {

void print_table(std::string_view key, std::string_view help, std::span<const Parameter> parameters,
                 const void* defaults) {
    std::cout << key << "  " << help << "\n";
    for (const Parameter& parameter : parameters) {
        std::cout << "  " << parameter.key << " = " << value_text(parameter, parameter.get(defaults))
                  << "\n      " << expectation_of(parameter) << "\n      " << parameter.help << "\n";
    }
    std::cout << "\n";
}

} // namespace

int describe(const std::string& type, bool markdown) {
    if (markdown) {
        std::cout << describe_format();
        return exit_fine;
    }
    bool found = false;
    const auto wanted = [&](std::string_view key) {
        const bool is_wanted = type.empty() || type == key;
        found = found || is_wanted;
        return is_wanted;
    };
    for (const ElementType& element : element_types()) {
        if (wanted(element.key)) {
            std::visit(
                [&](const auto& body) { print_table(element.key, element.help, element.parameters, &body); },
                element.prototype);
        }
    }
    if (const Look look; wanted("look")) {
        print_table("look", "How particles are drawn.", look_parameters(), &look);
    }
    if (const Texture texture; wanted("texture")) {
        print_table("texture", "What layers of looks and surfaces are laid with.", texture_parameters(),
                    &texture);
    }
    if (const Stage stage; wanted("stage")) {
        print_table("stage", "Light, background, camera, finishing.", stage_parameters(), &stage);
    }
    if (const Budget budget; wanted("budget")) {
        print_table("budget", "Limits.", budget_parameters(), &budget);
    }
    if (!found) {
        std::cerr << "describe: found " << type << ", expected one of";
        for (const ElementType& element : element_types()) {
            std::cerr << " " << element.key;
        }
        std::cerr << " look texture stage budget\n";
        return exit_wrong_usage;
    }
    std::cout.flush();
    return std::cout ? exit_fine : exit_bad_input;
}

} // namespace ember
