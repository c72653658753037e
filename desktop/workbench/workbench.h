// The workbench behind the window: the document, the player, the pictures and the files that an effect names,
// and what the artist does with them. No widgets: the window arranges, asks and shows, and hears from here.
//
//     Workbench bench(folder);
//     connect(&bench, &Workbench::effectChanged, ...);
//     bench.document().reset(effect, path);
//     bench.setPlaying(true);
#pragma once

#include "core/budget/keeper.h"
#include "core/runtime/player.h"
#include "core/runtime/take.h"
#include "desktop/workbench/asset_loader.h"
#include "desktop/workbench/document.h"
#include "desktop/workbench/file_watch.h"
#include "desktop/workbench/machines.h"
#include "desktop/workbench/picture_maker.h"
#include "desktop/workbench/presets.h"
#include "desktop/workbench/readings.h"
#include "desktop/workbench/run_writer.h"

#include <QElapsedTimer>

#include <functional>
#include <string>
#include <vector>

namespace ember {

class Workbench : public QObject {
    Q_OBJECT

  public:
    /// See Document; presets are kept in the same folder.
    explicit Workbench(const QString& state_folder, int autosave_ms = 15000);
    ~Workbench() override;

    Document& document() { return document_; }
    const EffectPtr& effect() const { return document_.effect(); }
    Player& player() { return player_; }
    PictureMaker& pictureMaker() { return maker_; }
    AssetLoader& loader() { return loader_; }
    /// What has been read so far of what the effect names; reading the rest begins.
    Assets assets() { return loader_.assetsFor(document_.effect(), document_.folder()); }
    /// How long the clips are that have been read (s), by the id of the source that plays them.
    std::map<std::string, double> clipLengths() const;
    const SmoothedCosts& costs() const { return costs_; }
    /// The steps that were made since the picture before, predicted like readings().
    const std::vector<StepCost>& steps() const { return steps_; }

    /// An element, a look, the stage or the budget.
    const std::string& selection() const { return selection_; }
    /// nullptr if that is no element.
    const Element* selectedElement() const { return find_element(*effect(), selection_); }
    void select(const std::string& id);

    /// One edit of the document, see Document::apply(). Refused in words, said(), if the whole would be too
    /// much.
    void edit(const Effect& effect, const QString& label, const QString& gesture = {});
    void undo();
    void redo();
    void setSeed(uint32_t seed);
    void rename(const QString& name);
    void focusOn(const Vec3& point);
    /// The camera as the effect's own.
    void keepView(const Camera& camera);
    /// Reads all files anew.
    void readAgain();

    /// Of elements; what is new is chosen.
    void add(const ElementType& type);
    /// What another effect has of sources, with what belongs to them.
    void addSourcesOf(const QString& path);
    void addCopied(const QString& text);
    /// Brings a file beside the effect's own, if it does not lie there: `inside` is how elements name it.
    /// False, and said(), if the effect has no file yet, or it cannot be copied.
    bool bringFile(const QString& path, std::string& inside);
    /// Emitters that play the baked particles of `folder`, from `start_s` on: one for each source of the
    /// effect that was baked, in the order of its PLY files, with that one's look and form. Refused in words
    /// if the folder is not beside the effect's file.
    void layClips(const Effect& baked, const QString& folder, double start_s);
    /// What was kept as a preset of elements; its files come along.
    void addPreset(const QString& path);
    /// The look of what was kept as a preset, for these sources.
    void wearLook(const QString& path, const std::vector<std::string>& sources);
    const Presets& presets() const { return presets_; }
    Machines& machines() { return machines_; }
    /// Of the picture that is shown, as the machine that the effect is for would have them.
    const Readings& readings() const { return readings_; }
    /// Of what is chosen, of a source's look, or of the whole effect; said().
    void keepPreset(Presets::Kind kind, const std::vector<std::string>& ids, const QString& name);
    QString copied(const std::vector<std::string>& ids) const;
    void duplicate(const std::vector<std::string>& ids);
    void remove(const std::vector<std::string>& ids);
    /// -1 earlier, 1 later among their kind.
    void move(std::vector<std::string> ids, int by);
    /// As the selected one is not.
    void toggleMuted(const std::vector<std::string>& ids);
    void toggleSolo(const std::vector<std::string>& ids);

    /// Takes lie in one file beside the effect's; empty if it has none.
    QString takesPath() const;
    /// Keeps what has been played since the start, with a small picture (PNG); said().
    void keepTake(const QByteArray& picture);
    /// What is wrong with the file is said(); what is sound is there.
    std::vector<Take> takes();
    void setTakes(const std::vector<Take>& takes);
    /// Runs that were playing when a program did not end well: as takes of their effects, or, if those have
    /// no file, in one of their own; said().
    void bringLostRuns();
    const RunWriter& runWriter() const { return run_writer_; }
    /// Plays a take again; the effect becomes what it was then.
    void replay(const Take& take);
    /// What a take has reached goes on without it.
    void goOnLive();

    /// How a marked part of the time comes again.
    enum class Looping { off, as_it_was, anew };
    void setSpan(const std::optional<std::pair<double, double>>& span_s);
    void setLooping(Looping looping);
    /// 0.05 to 4.
    void setSpeed(double speed);

    void setPlaying(bool playing);
    bool isPlaying() const { return player_.is_playing(); }
    /// Stays where it is if a moment is stepped to that has not been played; false if none is.
    bool endRacing();
    void stepOnce();
    void stepBack();
    void rewind() { player_.rewind(); }
    /// A moment that is pointed at: it stands still. Nothing: what played goes on from there.
    void goTo(std::optional<double> time_s);

  signals:
    /// Something to tell the artist, for so many milliseconds.
    void said(const QString& text, int ms);
    /// Another effect has been opened; comes before effectChanged().
    void opened();
    /// The player has it. Also sent when an edit was refused, so that what shows it shows the old one again.
    void effectChanged(const ember::EffectPtr& effect);
    /// Files have been read, or the effect names others.
    void assetsChanged(const ember::Assets& assets);
    /// Another selection, or another effect or its files: what is said about it may be another.
    void selectionChanged(const std::string& id);
    /// Elements that are new.
    void chosen(const std::vector<std::string>& ids);
    /// The effect's own camera is another.
    void cameraChanged(const ember::Camera& camera);
    void playingChanged(bool playing);
    void speedChanged(double speed);
    void loopingChanged(ember::Workbench::Looping looping);
    /// A newer picture is there.
    void shown(const ember::Shot& shot);

  private:
    void onReplaced(const EffectPtr& effect);
    void onEffectChanged(const EffectPtr& effect);
    void onShot();
    void predict();
    void keepWithinLimit();
    void giveToPlayer();
    void editEach(const QString& what, const std::vector<std::string>& ids,
                  const std::function<Effect(const Effect&, const std::string&)>& edit);
    void giveLoop();
    void tellPlaying(bool playing);
    void addTake(std::optional<Take> take, const QByteArray& picture);
    void beginReplay();
    void chooseNew(const std::vector<std::string>& ids);
    /// False, and said(), if they cannot be brought.
    bool bringFilesOf(const Effect& part, const QString& path);

    QString state_folder_;
    Document document_;
    Presets presets_;
    Player player_; // calls the maker, which reads the player's frames
    PictureMaker maker_;
    AssetLoader loader_;
    FileWatch file_watch_; // of what the loader has read
    RunWriter run_writer_;
    SmoothedCosts costs_;
    Machines machines_;
    Readings readings_;
    std::vector<StepCost> steps_;
    Keeper keeper_;
    QElapsedTimer since_shot_;
    double worst_frame_ms_ = 0, last_time_s_ = 0; // since the start
    uint64_t most_particles_ = 0;
    std::string selection_;
    uint32_t shown_seed_ = 0;
    Camera effect_camera_;                     // as the shown effect has it
    bool starts_anew_ = false;                 // with the effect that the player is given next
    bool lacks_files_ = false;                 // since it was started
    std::shared_ptr<const Take> waiting_take_; // to be played once its files have been read
    std::optional<std::pair<double, double>> span_s_;
    Looping looping_ = Looping::off;
    bool shows_playing_ = false;
    bool plays_on_ = false; // once the moment that is pointed at is let go of
};

} // namespace ember
