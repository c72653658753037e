#include "desktop/gallery/offers.h"

#include "core/effect/effect_file.h"
#include "core/effect/parameter.h"
#include "core/effect/paste.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/files.h"
#include "desktop/workbench/shipped.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>

namespace ember {

namespace {

QString said(const char* text) {
    return QCoreApplication::translate("Offers", text);
}

QString sample(const QString& name) {
    return shipped_folder("samples") + "/" + name + ".ember.json";
}

struct SourceSample {
    const char* name;
    const char* title;
    const char* help;
};

constexpr SourceSample source_samples[] = {
    {"source-jet", "Jet", "Leaves a point in one direction: water, dust, sparks from a wheel."},
    {"source-sheet", "Falling sheet", "Born all over a surface and falling: rain, a curtain of sand."},
    {"source-ring", "Ring", "Evenly from a ring, along it: portals, halos, rising embers."},
    {"source-burst", "Bursts", "Many at once, again and again: impacts, fireworks."},
    {"source-mist", "Mist", "Few, large and soft ones that drift: fog, steam, dust."},
    {"source-sparks-of-sparks", "Sparks of sparks", "Two sources: each spark gives birth where it dies."},
    {"source-wall", "Wall", "A breakable: courses of blocks that a swinging weight strikes."},
    {"source-boulder", "Boulders", "A breakable that is dropped, again and again, and cleaned up."},
};

struct StartWords {
    const char* name;
    const char* title;
    const char* help;
};

constexpr StartWords starts[] = {
    {"night", "Small, by night", "The same under stars, with a glow on wet ground."},
    {"studio", "Small, in a studio", "The same before soft grey, for looks and meshes."},
    {"day", "Small, by day", "The same in sun, for dust, water and smoke."},
    {"smoke-under-your-hand", "Smoke under your hand", "Steam and a lamp that follow the pointer."},
    {"wall-to-break", "A wall to break", "Click: a blow where the pointer is. It stands up again."},
};

struct DemoWords {
    const char* name;
    const char* help;
};

constexpr DemoWords demo_words[] = {
    {"sluice-spray", "A jet over a gate: turbulence, things to hit, mist."},
    {"brine-shoal", "A shoal that follows a lamp and flees a dipped hand."},
    {"wind-pump", "Chaff round a turning wheel: vortex, path and grid flow."},
    {"crystal-bloom", "Crystals that grow along a spiral, beyond their size and back."},
    {"flare-call", "A signal flare: streaks, sparks born of sparks, glow and smoke."},
    {"salt-stack", "Salt blocks that a hoist weight strikes, again and again, and that are cleaned up."},
    {"pan-steam", "Steam over evaporation pans, stirred by walkers and by the pointer."},
    {"drain-whirl", "A pan drains: vortex with inflow, threads from a travelling place."},
};

QString demo_help(const QString& name) {
    for (const DemoWords& words : demo_words) {
        if (name == QLatin1String(words.name)) {
            return said(words.help);
        }
    }
    return {};
}

// "sluice-spray" as "Sluice Spray".
QString titled(const QString& name) {
    QStringList words = name.split('-');
    for (QString& word : words) {
        word[0] = word[0].toUpper();
    }
    return words.join(' ');
}

// Of a family: how the files of its samples begin, and its heading.
struct FamilyWords {
    const char* prefix;
    const char* section;
};

FamilyWords words_of(Family family) {
    switch (family) {
    case Family::source:
        return {"source-", "Sources"};
    case Family::force:
        return {"force-", "Forces: what pushes"};
    case Family::collider:
        return {"collider-", "Collision: what is hit"};
    case Family::breaking:
        return {"breaking-", "Breaking: what holds, blows up and cleans up"};
    case Family::mover:
        return {"mover-", "Movers: what carries others"};
    case Family::light:
        return {"light-", "Lights: what shines"};
    case Family::smoke:
        return {"smoke-", "Smoke: a gas, its sources, hands in it"};
    case Family::modulator:
        return {"modulator-", "Modulators: what drives numbers"};
    case Family::trigger:
        return {"trigger-", "Triggers: when something happens, something is done"};
    }
    return {};
}

void add_source_samples(const QString& section, std::vector<Offer>& offers) {
    for (const SourceSample& each : source_samples) {
        const QString path = sample(QLatin1String(each.name));
        offers.push_back({path, said(each.title), said(each.help), section, path});
    }
}

std::vector<Offer> own_offers(const Presets& presets, Presets::Kind kind) {
    std::vector<Offer> offers;
    for (const Presets::Preset& each : presets.list(kind)) {
        offers.push_back({each.path, each.name, said("Kept by you; Delete throws it away."), said("Your own"),
                          each.path, false, true});
    }
    return offers;
}

} // namespace

std::vector<Offer> offers_to_add(Family first, Family last, const Presets& presets) {
    std::vector<Offer> offers;
    if (first == Family::source) {
        add_source_samples(said(words_of(Family::source).section), offers);
    }
    for (const ElementType& type : element_types()) {
        const Family family = family_of(type.prototype);
        if (family >= first && family <= last) {
            const QString key = qtext(type.key);
            const FamilyWords words = words_of(family);
            // A plain emitter is what an empty effect shows; a breakable shows how it breaks.
            const QString picture = std::holds_alternative<Emitter>(type.prototype) ? QString()
                                    : std::holds_alternative<Breakable>(type.prototype)
                                        ? sample("source-wall")
                                        : sample(words.prefix + key);
            offers.push_back({key, qtext(type.label), qtext(type.help), said(words.section), picture});
        }
    }
    for (Offer& own : own_offers(presets, Presets::Kind::elements)) {
        // Where the first that was kept belongs.
        const ReadResult read = read_effect(own.key.toStdString());
        const std::vector<std::string> ids =
            read.effect ? copied_ids(*read.effect) : std::vector<std::string>();
        if (ids.empty()) {
            continue;
        }
        const Family family = family_of(find_element(*read.effect, ids.front())->body);
        if (family >= first && family <= last) {
            offers.push_back(std::move(own));
        }
    }
    return offers;
}

std::vector<Offer> offers_of_looks(const Presets& presets) {
    return own_offers(presets, Presets::Kind::look);
}

std::vector<Offer> offers_to_start(const Presets& presets) {
    std::vector<Offer> offers = {
        {{}, said("Small and empty"), said("Ground, gravity and one emitter."), said("Start small"), {}}};
    for (const StartWords& each : starts) {
        const QString path = shipped_folder("starts") + "/" + QLatin1String(each.name) + ".ember.json";
        offers.push_back({path, said(each.title), said(each.help), said("Start small"), path});
    }
    for (Offer& own : own_offers(presets, Presets::Kind::start)) {
        offers.push_back(std::move(own));
    }
    for (const QString& path : Files::recent()) {
        offers.push_back({path, QFileInfo(path).fileName().section('.', 0, 0),
                          QDir::toNativeSeparators(QFileInfo(path).path()), said("Opened lately"), path,
                          true});
    }
    add_source_samples(said("Start with a source"), offers);
    for (const QString& name : Files::demoNames()) {
        offers.push_back({Files::demoPath(name), titled(name), demo_help(name), said("The Saltworks"),
                          Files::demoPath(name)});
    }
    return offers;
}

} // namespace ember
