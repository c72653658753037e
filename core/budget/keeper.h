// The keeper: near the frame limit it lets an effect give way, turn by turn, and takes it back once there is
// room. It only looks at what frames cost; its orders are inputs of the steps (Gives), so that runs can be
// made again without it.
//
//     Keeper keeper;
//     player.set_gives(keeper.note(*effect, elapsed_s, frame_ms));
#pragma once

#include "core/scene/giving.h"

namespace ember {

class Keeper {
  public:
    /// A frame has cost so much, so long after the one before. What is to be given from now on: nothing
    /// while the effect has no keeper. Ways in which it has nothing to give are passed over.
    const Gives& note(const Effect& effect, double elapsed_s, double frame_ms);
    const Gives& gives() const { return gives_; }
    /// How often it has given more or taken back.
    int changes() const { return changes_; }

  private:
    void set_level(const Effect& effect, int level);

    Gives gives_{};
    int level_ = 0;                                       // sixteenths of turns
    double quick_ms_ = 0, settling_ms_ = 0, slow_ms_ = 0; // means of frames, over ever longer times
    double lately_ms_ = 0, before_ms_ = 0;                // the last two, but never above the first
    double since_change_s_ = 0, with_room_s_ = 0;
    double wait_s_ = 3; // with room, before something is taken back
    bool took_back_ = false;
    double ms_a_level_ = 0; // what giving saved, as far as it has been seen
    double ms_before_ = 0;
    int changes_ = 0;
};

/// "births at 62 %, smoke in every 2nd step"; empty if nothing is given.
std::string words_of(const Budget& budget, const Gives& gives);

} // namespace ember
