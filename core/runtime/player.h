// A simulation on its own thread, in step with the clock.
//
// Whoever owns a player tells it what to do and never waits for it; frames come back through a triple buffer.
#pragma once

#include "core/base/triple_buffer.h"
#include "core/base/turns.h"
#include "core/runtime/past.h"

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

namespace ember {

/// What the steps took that were made since the frame before: a picture waits for all of them.
class StepTimes {
  public:
    void add(const Meters& step);
    /// In place of the times of the last step alone. Elements keep theirs: the board tells what a step costs.
    void write(Meters& frame) const;

  private:
    Meters sums_;
};

/// What one step cost and held.
struct StepCost {
    uint64_t step = 0;
    double time_s = 0; // behind it
    EffectPtr effect;  // that it ran with; meters.elements is in its order
    Meters meters;
    Gives gives{};
};

class Player {
  public:
    /// `on_frame` is called on the player's thread after each new frame; it must return quickly.
    explicit Player(std::function<void()> on_frame, Isa isa = best_isa());
    ~Player();
    Player(const Player&) = delete;
    Player& operator=(const Player&) = delete;

    /// The newest effect wins; it is taken at the start of a step. While paused a frame is made at once.
    void set_effect(EffectPtr effect, Assets assets = {});
    /// The same, and from its start: no step of what ran before comes between the two, and there is no going
    /// back to it.
    void start(EffectPtr effect, Assets assets = {});
    /// What the lens looks at, from the next frame on; nothing: it is off and costs nothing.
    void set_lens(std::optional<FieldOrder> lens);
    /// Where the pointer is, from the next step on; nothing: nowhere.
    void set_pointer(std::optional<PointerRay> ray);
    /// The picture was clicked, or a digit pressed over it; lost while nothing runs.
    void click();
    void press(int digit);
    /// Whether frames have the contacts of their steps.
    void note_contacts(bool on);
    /// Whether zones and rules of cleanup take pieces, from the next step on.
    void set_cleanup(bool on);
    /// The keeper's orders, from the next step on. What races to a moment gives nothing.
    void set_gives(const Gives& gives);
    /// An effect that has a length stops at its end; played on from there it begins again.
    void play();
    void pause();
    bool is_playing() const;
    /// Whether it is on the way to a moment that has not been played.
    bool is_racing() const;
    /// One step, then pause.
    void step_once();
    /// Back to time zero; goes on playing if it was.
    void rewind();
    /// Shows a moment that has been played, as it was then; it goes on from there. One that has not is
    /// stepped to as fast as that goes; pause() ends that on the way. The effect is the newest: what has been
    /// edited since is as it is now. The latest order wins.
    ///
    /// While it is paused there, an edit is seen at once in what stands there, and then as if it had been so
    /// from the start: the run is stepped anew, with all that reached it, to that moment, and on to where it
    /// had come.
    void go_to(double time_s);
    /// The same, so many steps from the moment that is shown; orders add up.
    void go_by(int steps);

    /// What has been played so far, to be kept: `taken` is called on the player's thread, with nothing if the
    /// first steps are not there any more. What steps with other inputs goes on.
    void take(std::function<void(std::optional<Take>)> taken);
    /// Plays a take again, from its start; behind its end it goes on live. An edit ends it where it is; going
    /// to another moment does not.
    void replay(std::shared_ptr<const Take> take, Assets assets);

    /// How fast time goes while it plays, 0.05 to 4; steps are as long as ever.
    void set_speed(double speed);
    /// A part of the time that comes again and again while it plays: from the moment as it was first played,
    /// or anew from the start of the effect, with all that has been edited since. Nothing: none does.
    struct Loop {
        double from_s = 0, to_s = 1;
        bool is_anew = false;
    };
    void set_loop(std::optional<Loop> loop);

    /// Steps take turns with what else uses every core: pictures of the frames.
    Turns& turns() { return turns_; }

    /// The steps that were made since this was last asked, those whose frame was never taken too, in the
    /// order in which they were made; the newest ten seconds of them. Without the warm-up, and without steps
    /// that only lead back to a moment.
    std::vector<StepCost> take_costs();

    /// Ends the thread. The last frame stays readable; nothing else happens any more.
    void stop();

    /// For one reading thread: true if frame() is newer than before.
    bool take_frame() { return frames_.take(); }
    const Frame& frame() const { return frames_.front(); }

  private:
    void run();
    void step(const StepInputs& live, const Take* replayed);
    void go(const std::optional<double>& to_s, int by, const std::function<void()>& shows_kept);
    void begin_again(const Loop& loop);
    void step_anew(const std::optional<FieldOrder>& lens);
    void hold(const std::optional<double>& to_s, int by);
    bool has_order() const;
    /// Where the effect is over.
    bool is_at_end() const;
    void race_to(uint64_t step);
    void publish(const std::optional<FieldOrder>& lens, const StepTimes* times, const Take* replayed);

    std::function<void()> on_frame_;
    Simulation simulation_;
    Past past_;
    TripleBuffer<Frame> frames_;
    Turns turns_;

    mutable std::mutex mutex_;
    std::condition_variable wake_;
    EffectPtr newest_;
    Assets newest_assets_;
    std::optional<FieldOrder> lens_;
    bool lens_changed_ = false;
    bool notes_contacts_ = false;
    StepInputs inputs_; // of the next step
    bool playing_ = false;
    bool rewind_ = false;
    bool forgets_ = false;        // what has been played
    std::optional<double> go_to_; // s
    int go_by_ = 0;               // steps, from there or from where it is
    bool stop_ = false;
    int single_steps_ = 0;
    double speed_ = 1;
    std::optional<Loop> loop_;
    std::optional<uint64_t> races_to_; // a step, as fast as it goes
    std::vector<std::function<void(std::optional<Take>)>> takers_;
    std::shared_ptr<const Take> replayed_;

    // Of the player's thread.
    bool holds_ = false; // paused at a moment that was gone to
    struct Anew {
        InputLog inputs;              // as they were
        uint64_t moment = 0, end = 0; // steps
    };
    std::optional<Anew> anew_; // because of an edit; still there if a newer one came before the moment

    std::mutex costs_mutex_;
    std::deque<StepCost> costs_;

    std::thread thread_;
};

} // namespace ember
