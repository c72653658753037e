#include "desktop/workbench/asset_loader.h"

namespace ember {

namespace {

std::string needs_text(const Effect& effect, const QString& folder) {
    std::string text = folder.toStdString();
    for (const AssetNeed& need : needs_of(effect)) {
        text += "\n" + need.key();
    }
    return text;
}

} // namespace

AssetLoader::~AssetLoader() {
    cancelled_ = true;
    join();
}

void AssetLoader::join() {
    if (thread_.joinable()) {
        thread_.join();
    }
}

Assets AssetLoader::assetsFor(const EffectPtr& effect, const QString& folder) {
    bool complete = false;
    Assets ready = library_.ready(*effect, folder.toStdString(), complete);
    const std::string needs = needs_text(*effect, folder);
    if (complete || reading_ || needs == given_up_) {
        return ready;
    }
    join();
    reading_ = true;
    cancelled_ = false;
    asked_ = needs;
    emit started();
    thread_ = std::thread([this, effect, folder = folder.toStdString()] {
        Progress progress;
        progress.report = [this](const std::string& what, float share) {
            if (!what.empty()) {
                emit progressed(QString::fromStdString(what), int(share * 100));
            }
            return !cancelled_.load();
        };
        const LoadResult result = library_.load(*effect, folder, progress);
        QMetaObject::invokeMethod(
            this, [this, result] { onRead(result); }, Qt::QueuedConnection);
    });
    return ready;
}

void AssetLoader::onRead(const LoadResult& result) {
    reading_ = false;
    if (cancelled_) {
        given_up_ = asked_;
    }
    problems_.clear();
    for (const Problems& list : {result.missing, result.notes}) {
        for (Problem problem : list) {
            const std::string id = problem.place.substr(0, problem.place.find('.'));
            problem.place.clear();
            QString& text = problems_[id];
            text += (text.isEmpty() ? "" : "\n") + QString::fromStdString(problem.text());
        }
    }
    emit finished();
}

void AssetLoader::cancel() {
    cancelled_ = true;
}

void AssetLoader::forget() {
    cancelled_ = true;
    join();
    library_.forget();
    given_up_.clear();
}

QString AssetLoader::problemOf(const std::string& element_id) const {
    const auto found = problems_.find(element_id);
    return found != problems_.end() ? found->second : QString();
}

} // namespace ember
