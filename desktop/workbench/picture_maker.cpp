#include "desktop/workbench/picture_maker.h"

#include <algorithm>
#include <chrono>

namespace ember {

namespace {

// Of an effect that runs.
constexpr std::chrono::milliseconds longest_between_frames(100);

AgeSpread spread_of(const Frame& frame, const std::string& source_id) {
    AgeSpread spread{};
    for (const FrameSource& source : frame.sources) {
        if (!source_id.empty() && frame.effect->elements[source.element].id == source_id) {
            for (const FrameParticle& particle : source.particles) {
                ++spread[size_t(particle.age_share) * spread.size() / 65536];
            }
        }
    }
    return spread;
}

// As large as it is drawn while the effect gives way.
QSize given_size(const Frame& frame, QSize size) {
    const float share = share_left(frame.effect->budget, frame.gives, GiveWay::picture);
    return share < 1 ? (QSizeF(size) * double(share)).toSize().expandedTo({1, 1}) : size;
}

} // namespace

PictureMaker::PictureMaker(Player& player, QObject* parent)
    : QObject(parent), player_(player), thread_([this] { run(); }) {}

PictureMaker::~PictureMaker() {
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_one();
    thread_.join();
}

void PictureMaker::change(auto set) {
    {
        const std::lock_guard lock(mutex_);
        set();
        due_ = true;
    }
    wake_.notify_one();
}

void PictureMaker::wake() {
    change([] {});
}

void PictureMaker::setCamera(const Camera& camera) {
    change([&] { order_.camera = camera; });
}

void PictureMaker::setFlying(bool on) {
    change([&] { order_.is_flying = on; });
}

void PictureMaker::setSize(QSize pixels) {
    change([&] { order_.size = pixels; });
}

void PictureMaker::setTint(DotTint tint) {
    change([&] { order_.tint = tint; });
}

void PictureMaker::setCutApart(std::optional<float> apart) {
    change([&] { order_.cut_apart = apart; });
}

void PictureMaker::setHeat(bool on) {
    change([&] { order_.heat = on; });
}

void PictureMaker::exportPicture(const QString& path, const StillOptions& options) {
    change([&] {
        order_.export_path = path;
        order_.export_options = options;
    });
}

void PictureMaker::save(const Order& order) {
    Camera camera = order.camera;
    camera.seen = 1; // the frame, and nothing outside it
    const auto problem = save_still(player_.frame(), *player_.frame().now, camera, order.export_options,
                                    order.export_path.toStdString());
    emit exported(order.export_path, problem ? QString::fromStdString(problem->text()) : QString());
}

void PictureMaker::askPoint(QPointF place) {
    change([&] { order_.asked = place; });
}

Vec3 PictureMaker::pointAt(const Order& order) const {
    constexpr float far_m = 1000;
    const QPointF pixel(order.asked->x() * order.size.width(), order.asked->y() * order.size.height());
    const int x = std::clamp(int(pixel.x()), 0, order.size.width() - 1);
    const int y = std::clamp(int(pixel.y()), 0, order.size.height() - 1);
    const ViewAxes view = axes_of(order.camera);
    const float depth = renderer_.depth_at(x, y).value_or(far_m);
    const float scale = 2 * depth / (float(order.size.height()) * view.focal);
    return view.eye + view.forward * depth +
           view.right * ((float(pixel.x()) - float(order.size.width()) * 0.5f) * scale) +
           view.up * ((float(order.size.height()) * 0.5f - float(pixel.y())) * scale);
}

void PictureMaker::watch(const std::string& source_id) {
    const std::lock_guard lock(mutex_);
    order_.watched = source_id;
}

bool PictureMaker::takeShot() {
    announced_ = false;
    return shots_.take();
}

void PictureMaker::run() {
    std::unique_lock lock(mutex_);
    while (!stop_) {
        wake_.wait(lock, [this] { return stop_ || due_; });
        if (stop_) {
            return;
        }
        due_ = false;
        Order order = order_;
        order_.asked.reset();
        order_.export_path.clear();
        lock.unlock();
        std::optional<Turns::Held> turn(std::in_place, player_.turns());
        const bool is_new = player_.take_frame();
        const bool can_draw = player_.frame().effect && !order.size.isEmpty();
        if (can_draw) {
            order.size = given_size(player_.frame(), order.size);
        }
        if (can_draw && order.is_flying) {
            const float seen = order.camera.seen;
            order.camera = camera_of(player_.frame().now->stage);
            order.camera.seen = seen;
        }
        if (can_draw) {
            draw(order);
        }
        turn.reset();
        if (can_draw && !order.export_path.isEmpty()) {
            save(order);
        }
        lock.lock();
        // A picture that still gets smoother is drawn again, also while nothing moves. While frames come in,
        // the next of them is waited for.
        if (can_draw && !renderer_.is_settled()) {
            wake_.wait_for(lock, is_new ? longest_between_frames : std::chrono::milliseconds(0),
                           [this] { return stop_ || due_; });
            due_ = true;
        }
    }
}

void PictureMaker::draw(const Order& order) {
    const Frame& frame = player_.frame();
    Shot& shot = shots_.back();
    renderer_.set_tint(order.tint);
    renderer_.set_cut_apart(order.cut_apart);
    renderer_.set_preview(true);
    renderer_.draw(frame, *frame.now, order.camera, order.size.width(), order.size.height(), shot.picture);
    shot.camera = order.camera;
    shot.contacts = frame.contacts;
    shot.heat = order.heat ? renderer_.heat(frame) : HeatMap();
    // Three frames and three pictures are held at any time.
    const size_t bytes = frame.meters.bytes + frame.kept_bytes + 3 * frame.bytes() + renderer_.bytes() +
                         3 * shot.picture.pixels.size() * sizeof(uint32_t);
    shot.readings = {frame.effect,
                     frame.time_s,
                     frame.step,
                     frame.kept_to_s,
                     frame.is_replayed,
                     frame.gives,
                     frame.meters,
                     renderer_.meters(),
                     bytes,
                     frame.placements,
                     frame.modulators,
                     frame.field,
                     spread_of(frame, order.watched)};
    if (order.asked) {
        emit pointFound(pointAt(order));
    }
    shots_.publish();
    if (!announced_.exchange(true)) {
        emit ready();
    }
}

} // namespace ember
