// What is wrong with an input: said once, in full.
#pragma once

#include <string>
#include <vector>

namespace ember {

/// One problem in a file or a command. Shown as
/// `spray.ember.json:12: /elements/0/parameters/rate: found -5, expected a number from 0 to 1000000 1/s`.
struct Problem {
    std::string file;     // may be empty
    int line = 0;         // from 1; 0 where there is none
    std::string place;    // JSON pointer, or the name of an option
    std::string found;    // what stands there
    std::string expected; // what should stand there, or what to do

    std::string text() const;
};

using Problems = std::vector<Problem>;

} // namespace ember
