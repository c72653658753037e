#include "desktop/workbench/workbench.h"

#include "core/effect/edit.h"
#include "render/camera.h"
#include "render/moment.h"

#include <QDir>
#include <QFileInfo>

#include <utility>

namespace ember {

namespace {

// Of the steps since the picture before, with this picture.
double dearest_frame_ms(const std::vector<StepCost>& steps, const Readings& readings) {
    double dearest = 0;
    for (const StepCost& step : steps) {
        dearest = std::max(dearest, step.meters.step_ms);
    }
    return dearest + readings.draw.total_ms;
}

} // namespace

Workbench::Workbench(const QString& state_folder, int autosave_ms)
    : state_folder_(state_folder), document_(state_folder, autosave_ms), presets_(state_folder + "/presets"),
      player_([this] { maker_.wake(); }), maker_(player_), run_writer_(state_folder, player_),
      machines_(state_folder, player_.turns()) {
    connect(&document_, &Document::replaced, this, &Workbench::onReplaced);
    connect(&document_, &Document::effectChanged, this, &Workbench::onEffectChanged);
    connect(&document_, &Document::keepingFailed, this, [this](const QString& why) {
        emit said(tr("Unsaved work could not be kept: %1").arg(why), 10000);
    });
    connect(&loader_, &AssetLoader::finished, this, [this] {
        // What an effect did before it had its files is not what it does.
        starts_anew_ = std::exchange(lacks_files_, false);
        giveToPlayer();
        if (waiting_take_) {
            beginReplay();
        }
        select(selection_);
    });
    connect(&file_watch_, &FileWatch::changed, this, [this](const QStringList& files) {
        readAgain();
        emit said(
            tr("Read again, since it has changed on disk: %1").arg(QFileInfo(files.front()).fileName()) +
                (files.size() > 1 ? tr(" and %1 more").arg(files.size() - 1) : QString()),
            8000);
    });
    connect(&document_, &Document::stateChanged, this, [this] { run_writer_.setDocument(document_.path()); });
    connect(&run_writer_, &RunWriter::failed, this, [this](const QString& why) {
        emit said(tr("The run cannot be written along, and would be lost with the program: %1").arg(why),
                  10000);
    });
    connect(&maker_, &PictureMaker::pointFound, this, &Workbench::focusOn, Qt::QueuedConnection);
    connect(
        &maker_, &PictureMaker::exported, this,
        [this](const QString& path, const QString& problem) {
            emit said(problem.isEmpty() ? tr("Saved %1").arg(path) : tr("Not saved: %1").arg(problem), 8000);
        },
        Qt::QueuedConnection);
    connect(&maker_, &PictureMaker::ready, this, &Workbench::onShot, Qt::QueuedConnection);
}

Workbench::~Workbench() {
    machines_.stopMeasuring();
    player_.stop(); // before the maker, which it calls, is no more
}

void Workbench::select(const std::string& id) {
    selection_ = id;
    maker_.watch(id);
    emit selectionChanged(id);
}

void Workbench::edit(const Effect& effect, const QString& label, const QString& gesture) {
    if (const auto refusal = whole_refusal(effect)) {
        emit said(tr("Not done: %1").arg(QString::fromStdString(*refusal)), 10000);
        onEffectChanged(document_.effect());
        return;
    }
    document_.apply(effect, label, gesture);
}

void Workbench::undo() {
    const QString what = QString::fromStdString(document_.history().undo_label());
    document_.undo();
    emit said(tr("Taken back: %1").arg(what), 4000);
}

void Workbench::redo() {
    const QString what = QString::fromStdString(document_.history().redo_label());
    document_.redo();
    emit said(tr("Done again: %1").arg(what), 4000);
}

void Workbench::setSeed(uint32_t seed) {
    edit(with_seed(*effect(), seed), tr("change the seed"));
}

void Workbench::rename(const QString& name) {
    if (!name.trimmed().isEmpty()) {
        edit(with_effect_name(*effect(), name.trimmed().left(60).toStdString()), tr("rename the effect"));
    }
}

void Workbench::focusOn(const Vec3& point) {
    Effect next = *effect();
    next.stage.focus = point;
    edit(next, tr("focus"));
    if (next.stage.aperture <= 0) {
        emit said(tr("The focus is set; it shows once the stage's aperture is open"), 6000);
    }
}

void Workbench::keepView(const Camera& camera) {
    Effect next = *effect();
    next.stage.camera_target = camera.target;
    next.stage.camera_distance = camera.distance;
    next.stage.camera_azimuth = camera.azimuth;
    next.stage.camera_height = camera.height;
    next.stage.field_of_view = camera.field_of_view;
    edit(next, tr("keep the view"));
}

void Workbench::readAgain() {
    loader_.forget();
    giveToPlayer();
}

void Workbench::onReplaced(const EffectPtr& effect) {
    shown_seed_ = effect->seed;
    starts_anew_ = true;
    effect_camera_ = camera_of(effect->stage);
    emit cameraChanged(effect_camera_);
    emit opened();
}

void Workbench::onEffectChanged(const EffectPtr& effect) {
    waiting_take_.reset();
    if (effect->seed != shown_seed_) {
        shown_seed_ = effect->seed;
        starts_anew_ = true;
        emit said(tr("Another seed: started again from 0 s"), 4000);
    }
    if (const Camera camera = camera_of(effect->stage); camera != effect_camera_) {
        effect_camera_ = camera;
        emit cameraChanged(camera);
    }
    giveToPlayer();
    if (!find_holder(*effect, selection_)) {
        selection_ = effect->elements.empty() ? std::string(stage_id) : effect->elements.front().id;
    }
    emit effectChanged(effect);
    select(selection_);
}

// The effect with what has been read for it so far.
void Workbench::giveToPlayer() {
    const Assets assets = this->assets();
    if (std::exchange(starts_anew_, false)) {
        player_.start(effect(), assets);
        lacks_files_ = loader_.isReading();
    } else {
        player_.set_effect(effect(), assets);
    }
    QStringList files;
    for (const AssetNeed& need : needs_of(*effect())) {
        files << QDir(document_.folder()).filePath(QString::fromStdString(need.file));
    }
    files.removeDuplicates();
    file_watch_.watch(document_.folder().isEmpty() ? QStringList() : files);
    emit assetsChanged(assets);
}

void Workbench::onShot() {
    if (maker_.takeShot()) {
        readings_ = maker_.shot().readings;
        steps_ = player_.take_costs();
        predict();
        costs_.add(readings_);
        keepWithinLimit();
        const Readings& readings = readings_;
        if (readings.time_s < last_time_s_) { // it began anew, or went back
            worst_frame_ms_ = 0;
            most_particles_ = 0;
        }
        last_time_s_ = readings.time_s;
        worst_frame_ms_ = std::max(worst_frame_ms_, readings.frame_ms());
        most_particles_ = std::max(most_particles_, uint64_t(readings.meters.particles));
        emit shown(maker_.shot());
        if (shows_playing_ && !player_.is_playing()) { // the effect has an end
            tellPlaying(false);
        }
    }
}

void Workbench::predict() {
    if (!machines_.isPredicting()) {
        return;
    }
    const MachineRatio& ratio = machines_.ratio();
    readings_.meters = predicted(readings_.meters, ratios_of(*readings_.effect, ratio), ratio);
    readings_.draw = predicted(readings_.draw, *readings_.effect, ratio);
    for (StepCost& step : steps_) {
        step.meters = predicted(step.meters, ratios_of(*step.effect, ratio), ratio);
    }
}

// A take has its own keeper's orders, and what stands still costs nobody anything.
void Workbench::keepWithinLimit() {
    const double elapsed_s = since_shot_.isValid() ? double(since_shot_.restart()) / 1000 : 0;
    if (!since_shot_.isValid()) {
        since_shot_.start();
    }
    constexpr double longest_s = 0.5; // between pictures that follow one another
    if (shows_playing_ && !steps_.empty() && !readings_.is_replayed && elapsed_s < longest_s) {
        player_.set_gives(keeper_.note(*readings_.effect, elapsed_s, dearest_frame_ms(steps_, readings_)));
    }
}

void Workbench::setPlaying(bool playing) {
    playing ? player_.play() : player_.pause();
    tellPlaying(playing);
}

void Workbench::tellPlaying(bool playing) {
    shows_playing_ = playing;
    emit playingChanged(playing);
}

bool Workbench::endRacing() {
    const bool raced = player_.is_racing();
    if (raced) {
        setPlaying(false);
        emit said(tr("Stopped on the way; P plays on from here"), 4000);
    }
    return raced;
}

void Workbench::setSpeed(double speed) {
    player_.set_speed(speed);
    emit speedChanged(speed);
}

void Workbench::setSpan(const std::optional<std::pair<double, double>>& span_s) {
    span_s_ = span_s;
    giveLoop();
}

void Workbench::setLooping(Looping looping) {
    looping_ = looping;
    if (looping != Looping::off && !span_s_) {
        emit said(tr("Mark a part of the time first: drag over the seconds below the costs"), 6000);
    }
    giveLoop();
    emit loopingChanged(looping);
}

void Workbench::giveLoop() {
    const bool loops = span_s_ && looping_ != Looping::off;
    player_.set_loop(
        loops ? std::optional(Player::Loop{span_s_->first, span_s_->second, looping_ == Looping::anew})
              : std::nullopt);
}

void Workbench::stepOnce() {
    setPlaying(false);
    player_.step_once();
}

void Workbench::stepBack() {
    setPlaying(false);
    player_.go_by(-1);
}

void Workbench::goTo(std::optional<double> time_s) {
    if (!time_s) {
        if (std::exchange(plays_on_, false)) {
            setPlaying(true);
        }
        return; // a pause would end what is still stepped to
    }
    plays_on_ = plays_on_ || isPlaying();
    setPlaying(false);
    player_.go_to(*time_s);
}

} // namespace ember
