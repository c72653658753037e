#include "core/runtime/player.h"

#include "core/effect/alike.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <utility>

namespace ember {

namespace {

// Steps, an hour: as far as one goes into what has not been played.
constexpr double farthest = 216'000;

// A moment so many steps behind what is kept is soon there (steps).
constexpr uint64_t soon = 12;

// How late a step may be and still be made.
constexpr int latest_steps = 3;

// Bytes that what was played may take: it counts within the memory limit (MB), beside what the effect holds.
size_t room_for_past(float limit_mb, size_t held) {
    constexpr double least = 16e6, most = 250e6;
    return size_t(std::clamp((double(limit_mb) * 1e6 - double(held)) / 2, least, most));
}

constexpr auto whole_times = {&Meters::births_ms, &Meters::forces_ms, &Meters::collision_ms,
                              &Meters::smoke_ms,  &Meters::debris_ms, &Meters::step_ms};

} // namespace

void StepTimes::add(const Meters& step) {
    for (const auto time : whole_times) {
        sums_.*time += step.*time;
    }
}

void StepTimes::write(Meters& frame) const {
    for (const auto time : whole_times) {
        frame.*time = sums_.*time;
    }
}

Player::Player(std::function<void()> on_frame, Isa isa)
    : on_frame_(std::move(on_frame)), simulation_(isa), thread_([this] { run(); }) {}

Player::~Player() {
    stop();
}

void Player::stop() {
    if (!thread_.joinable()) {
        return;
    }
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_one();
    thread_.join();
}

void Player::set_effect(EffectPtr effect, Assets assets) {
    {
        const std::lock_guard lock(mutex_);
        newest_ = std::move(effect);
        newest_assets_ = std::move(assets);
        replayed_.reset();
    }
    wake_.notify_one();
}

void Player::start(EffectPtr effect, Assets assets) {
    {
        const std::lock_guard lock(mutex_);
        newest_ = std::move(effect);
        newest_assets_ = std::move(assets);
        replayed_.reset();
        races_to_.reset();
        rewind_ = true;
        forgets_ = true;
    }
    wake_.notify_one();
}

void Player::set_lens(std::optional<FieldOrder> lens) {
    {
        const std::lock_guard lock(mutex_);
        lens_ = std::move(lens);
        lens_changed_ = true;
    }
    wake_.notify_one();
}

void Player::play() {
    {
        const std::lock_guard lock(mutex_);
        playing_ = true;
    }
    wake_.notify_one();
}

void Player::pause() {
    const std::lock_guard lock(mutex_);
    playing_ = false;
    races_to_.reset();
}

bool Player::is_racing() const {
    const std::lock_guard lock(mutex_);
    return races_to_.has_value();
}

// To be asked while the mutex is held.
bool Player::has_order() const {
    return stop_ || rewind_ || go_to_ || go_by_ != 0 || lens_changed_ || single_steps_ > 0 || newest_ ||
           !takers_.empty();
}

void Player::set_speed(double speed) {
    const std::lock_guard lock(mutex_);
    speed_ = std::clamp(speed, 0.05, 4.0);
}

void Player::set_loop(std::optional<Loop> loop) {
    const std::lock_guard lock(mutex_);
    loop_ = loop && loop->to_s > loop->from_s ? loop : std::nullopt;
}

bool Player::is_playing() const {
    const std::lock_guard lock(mutex_);
    return playing_;
}

void Player::note_contacts(bool on) {
    const std::lock_guard lock(mutex_);
    notes_contacts_ = on;
}

void Player::set_cleanup(bool on) {
    const std::lock_guard lock(mutex_);
    inputs_.cleans = on;
}

void Player::set_gives(const Gives& gives) {
    const std::lock_guard lock(mutex_);
    inputs_.gives = gives;
}

void Player::set_pointer(std::optional<PointerRay> ray) {
    const std::lock_guard lock(mutex_);
    inputs_.pointer = ray;
}

void Player::click() {
    const std::lock_guard lock(mutex_);
    inputs_.clicks += playing_ ? 1 : 0;
}

void Player::press(int digit) {
    const std::lock_guard lock(mutex_);
    if (playing_) {
        inputs_.keys.push_back(digit);
    }
}

void Player::step_once() {
    {
        const std::lock_guard lock(mutex_);
        playing_ = false;
        ++single_steps_;
    }
    wake_.notify_one();
}

void Player::rewind() {
    {
        const std::lock_guard lock(mutex_);
        rewind_ = true;
        races_to_.reset();
    }
    wake_.notify_one();
}

void Player::take(std::function<void(std::optional<Take>)> taken) {
    {
        const std::lock_guard lock(mutex_);
        takers_.push_back(std::move(taken));
    }
    wake_.notify_one();
}

void Player::replay(std::shared_ptr<const Take> take, Assets assets) {
    {
        const std::lock_guard lock(mutex_);
        newest_ = take->effect_at(0);
        newest_assets_ = std::move(assets);
        replayed_ = std::move(take);
        races_to_.reset();
        rewind_ = true;
        forgets_ = true;
    }
    wake_.notify_one();
}

void Player::go_to(double time_s) {
    {
        const std::lock_guard lock(mutex_);
        go_to_ = time_s;
        go_by_ = 0;
    }
    wake_.notify_one();
}

void Player::go_by(int steps) {
    {
        const std::lock_guard lock(mutex_);
        go_by_ += steps;
    }
    wake_.notify_one();
}

// The warm-up is not kept: nobody goes back to it.
void Player::step(const StepInputs& live, const Take* replayed) {
    const bool is_replayed = replayed != nullptr && simulation_.steps() < replayed->steps();
    const StepInputs inputs = is_replayed ? inputs_of_step(*replayed, simulation_) : live;
    if (!simulation_.is_warming_up()) {
        past_.set_most_bytes(
            room_for_past(simulation_.effect()->budget.memory_mb, simulation_.meters().bytes));
        past_.note(simulation_, inputs);
    }
    const bool warms_up = simulation_.is_warming_up();
    simulation_.step(inputs);
    if (!warms_up) {
        constexpr size_t most_kept = 600;
        const std::lock_guard lock(costs_mutex_);
        costs_.push_back({simulation_.steps(), simulation_.time_s(), simulation_.effect(),
                          simulation_.meters(), inputs.gives});
        if (costs_.size() > most_kept) {
            costs_.pop_front();
        }
    }
}

std::vector<StepCost> Player::take_costs() {
    std::deque<StepCost> taken;
    {
        const std::lock_guard lock(costs_mutex_);
        taken.swap(costs_);
    }
    return {std::make_move_iterator(taken.begin()), std::make_move_iterator(taken.end())};
}

// Where it takes a while, `shows_kept` is called first, at what is kept nearest before the moment.
void Player::go(const std::optional<double>& to_s, int by, const std::function<void()>& shows_kept) {
    if (!simulation_.effect() || simulation_.is_warming_up()) {
        return;
    }
    const EffectPtr newest = simulation_.effect();
    const std::shared_ptr<const Assets> assets = simulation_.assets();
    const double from_now = to_s ? std::round((*to_s - simulation_.time_s()) / simulation_.step_s()) : 0;
    const double wanted = double(simulation_.steps()) + from_now + double(by);
    if (past_.end() > 0) {
        const auto step = uint64_t(std::clamp(wanted, double(past_.begin()), double(past_.end())));
        bool is_first = true;
        past_.go_to(simulation_, step, [&] {
            const bool is_far = std::exchange(is_first, false) && step > simulation_.steps() + soon;
            if (is_far && simulation_.effect() == newest && simulation_.assets() == assets) {
                shows_kept();
            }
            const std::lock_guard lock(mutex_);
            return !stop_ && !rewind_ && !go_to_;
        });
        if (simulation_.effect() != newest || simulation_.assets() != assets) {
            simulation_.set_effect(newest, assets);
        }
    }
    if (wanted > double(std::max(past_.end(), simulation_.steps()))) {
        race_to(uint64_t(std::min(wanted, double(simulation_.steps()) + farthest)));
    }
}

void Player::race_to(uint64_t step) {
    const std::lock_guard lock(mutex_);
    races_to_ = step;
}

bool Player::is_at_end() const {
    const EffectPtr& effect = simulation_.effect();
    return effect && effect->stage.length > 0 &&
           simulation_.time_s() >= double(effect->stage.length) - simulation_.step_s() / 2;
}

void Player::begin_again(const Loop& loop) {
    if (!loop.is_anew) {
        return go(loop.from_s, 0, [] {});
    }
    simulation_.rewind();
    race_to(simulation_.warm_up_steps() +
            uint64_t(std::llround(std::max(loop.from_s, 0.0) / simulation_.step_s())));
}

void Player::run() {
    using Clock = std::chrono::steady_clock;
    const auto step_time =
        std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(simulation_.step_s()));
    Clock::time_point due = Clock::now();
    bool was_playing = false;
    Clock::time_point published = due;

    std::unique_lock lock(mutex_);
    while (!stop_) {
        const bool warms_up = simulation_.effect() && simulation_.is_warming_up();
        if (races_to_ && simulation_.steps() >= *races_to_) {
            races_to_.reset();
            due = Clock::now();
        }
        const bool races = simulation_.effect() && races_to_;
        if (warms_up || races) {
            // As fast as it goes, playing or not.
        } else if (!playing_ || (!newest_ && !simulation_.effect())) {
            wake_.wait(lock, [this] { return has_order() || (playing_ && simulation_.effect()); });
        } else if (was_playing) {
            // An edit brings the step that is due next forward, by at most one step, so that it shows sooner.
            wake_.wait_until(lock, due, [&] {
                return stop_ || rewind_ || go_to_ || go_by_ != 0 || !playing_ || !takers_.empty() ||
                       (newest_ && Clock::now() >= due - step_time);
            });
        }
        if (stop_) {
            return;
        }
        const std::optional<double> goes_to = std::exchange(go_to_, std::nullopt);
        const int goes_by = std::exchange(go_by_, 0);
        const bool goes = goes_to || goes_by != 0;
        const bool changed = newest_ != nullptr || rewind_ || lens_changed_ || goes;
        lens_changed_ = false;
        const std::optional<FieldOrder> lens = lens_;
        const uint64_t warm_up = simulation_.warm_up_steps();
        const bool changes_warm_up = newest_ && warms_up; // what a run begins with is one effect
        holds_ = (holds_ || goes) && !playing_ && !rewind_ && single_steps_ == 0 && !replayed_;
        const bool has_run = past_.end() > 0 && !warms_up && !races;
        const bool begins_anew = holds_ && (anew_ || (newest_ && !goes && has_run &&
                                                      alike_until_s(*simulation_.effect(), *newest_) <
                                                          std::numeric_limits<double>::infinity()));
        if (newest_) {
            simulation_.set_effect(std::move(newest_), newest_assets_);
            newest_.reset();
        }
        // With another warm-up it has begun anew.
        if (std::exchange(forgets_, false) || simulation_.warm_up_steps() != warm_up) {
            past_.clear();
            holds_ = false;
        }
        if (!holds_) {
            anew_.reset();
        }
        simulation_.note_contacts(notes_contacts_);
        // Played on from its end, an effect begins from the start.
        const bool starts_over = playing_ && !was_playing && !goes && !races && is_at_end();
        const bool rewinds = std::exchange(rewind_, false) || changes_warm_up || starts_over;
        const auto takers = std::exchange(takers_, {});
        const std::shared_ptr<const Take> replayed = replayed_;
        const bool steps =
            simulation_.effect() && !goes && (warms_up || races || playing_ || single_steps_ > 0);
        single_steps_ -= steps && single_steps_ > 0 && !warms_up && !races ? 1 : 0;
        if (playing_ && !was_playing) {
            due = Clock::now();
        }
        was_playing = playing_;
        StepInputs inputs = inputs_;
        if (steps) { // clicks and keys reach one step
            inputs_.clicks = 0;
            inputs_.keys.clear();
        }
        if (warms_up) {
            inputs = {}; // nobody is there yet
        } else if (races) {
            inputs = {.cleans = inputs.cleans};
        }
        const uint64_t races_until = races_to_.value_or(0);
        const bool keeps_time = playing_ && !warms_up && !races;
        const auto pace = std::chrono::duration_cast<Clock::duration>(step_time / speed_);
        const std::optional<Loop> loop = keeps_time ? loop_ : std::nullopt;
        lock.unlock();

        std::optional<Turns::Held> turn(std::in_place, turns_);
        if (rewinds) {
            simulation_.rewind();
        }
        if (goes && anew_) {
            hold(goes_to, goes_by);
        } else if (goes) {
            go(goes_to, goes_by, [&] { publish(lens, nullptr, nullptr); });
            due = Clock::now();
        }
        for (const auto& taken : takers) {
            taken(past_.take(simulation_));
        }
        // Steps that have become due while a picture was drawn are made in one turn, which is no longer than
        // a step may be. What is later than that is not caught up with: the effect runs slower, it never
        // stalls. Steps of the warm-up are not due at any time: the clock begins after them.
        const Clock::time_point turn_end = Clock::now() + step_time;
        bool ends_span = false, is_over = false;
        StepTimes times;
        for (bool goes_on = steps; goes_on;) {
            step(inputs, replayed.get());
            times.add(simulation_.meters());
            inputs.clicks = 0;
            inputs.keys.clear();
            const Clock::time_point now = Clock::now();
            due = keeps_time ? std::max(due + pace, now - latest_steps * step_time) : now;
            ends_span = loop && simulation_.time_s() >= loop->to_s - simulation_.step_s() / 2;
            is_over = keeps_time && !loop && is_at_end();
            goes_on = keeps_time && due <= now && now < turn_end && !ends_span && !is_over;
        }
        // While it warms up, or races, the time is shown now and then.
        const bool is_between =
            simulation_.effect() &&
            (simulation_.is_warming_up() || (races && simulation_.steps() < races_until)) &&
            Clock::now() - published < std::chrono::milliseconds(100);
        // A run that is on its way to the moment is not shown before it is there.
        if (simulation_.effect() && (steps || changed) && !is_between && !anew_) {
            published = Clock::now();
            publish(lens, steps ? &times : nullptr, replayed.get());
        }
        if (ends_span) {
            begin_again(*loop);
        }
        turn.reset();
        if (begins_anew && holds_) {
            step_anew(lens);
        }
        lock.lock();
        if (is_over) {
            playing_ = was_playing = false;
        }
    }
}

// Another moment than the one that a run is stepped anew for.
void Player::hold(const std::optional<double>& to_s, int by) {
    const double step_s = simulation_.step_s();
    const auto start = double(simulation_.warm_up_steps());
    const double from = to_s ? start + std::round(*to_s / step_s) : double(anew_->moment);
    anew_->moment = uint64_t(std::clamp(from + double(by), start, start + farthest));
}

// To the moment that is held, and on to where the run had come; then back to the moment. A newer edit begins
// it again; what else is ordered waits for the moment, and takes the place of the rest.
void Player::step_anew(const std::optional<FieldOrder>& lens) {
    if (!anew_) {
        anew_ = Anew{past_.inputs(), simulation_.steps(), std::max(past_.end(), simulation_.steps())};
    }
    const auto is_called = [this](bool by_anything) {
        const std::lock_guard lock(mutex_);
        return by_anything ? has_order() || playing_ : stop_ || rewind_ || newest_;
    };
    const uint64_t moment = anew_->moment;
    if (!past_.go_back_alike(simulation_, moment)) {
        simulation_.rewind();
    }
    while (simulation_.steps() < anew_->end || simulation_.steps() < moment) {
        const bool is_there = simulation_.steps() >= moment;
        if (is_called(is_there)) {
            if (!is_there) {
                return;
            }
            break;
        }
        const Turns::Held turn(turns_);
        const uint64_t at = simulation_.steps();
        step(!simulation_.is_warming_up() && at < anew_->inputs.end() ? anew_->inputs.at(at) : StepInputs(),
             nullptr);
        if (simulation_.steps() == moment) {
            publish(lens, nullptr, nullptr);
        }
    }
    const Turns::Held turn(turns_);
    past_.go_to(simulation_, moment, [] { return true; });
    anew_.reset();
}

void Player::publish(const std::optional<FieldOrder>& lens, const StepTimes* times, const Take* replayed) {
    Frame& frame = frames_.back();
    simulation_.write_frame(frame);
    const uint64_t end = std::max(past_.end(), anew_ ? anew_->end : 0);
    const auto ahead = double(std::max(end, simulation_.steps()) - simulation_.steps());
    frame.kept_to_s = simulation_.time_s() + ahead * simulation_.step_s();
    frame.kept_bytes = past_.bytes();
    frame.is_replayed = replayed != nullptr && simulation_.steps() < replayed->steps();
    if (times != nullptr) {
        times->write(frame.meters);
    }
    frame.field = lens ? std::make_shared<const FieldReading>(simulation_.read_field(*lens)) : nullptr;
    frames_.publish();
    on_frame_();
}

} // namespace ember
