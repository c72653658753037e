#include "core/blocks/block_kernels.h"
#include "core/scene/program.h"

#include <QtTest>

#include <memory>

using namespace ember;

namespace {

// A field's value at many points: a block of particles is placed there and the force is asked for its push.
class FieldProbe {
  public:
    explicit FieldProbe(const Turbulence& turbulence, double time_s = 0, Isa isa = best_isa())
        : run_(block_kernels(isa)) {
        Effect effect = starter_effect();
        effect.elements.resize(1);
        effect.elements.push_back({.id = "t", .name = "t", .body = turbulence, .links = {{"emitter", 1}}});
        constexpr double step_s = 1e-4;
        const StepTime time = {step_s, uint64_t(std::lround(time_s / step_s))};
        ready_ = prepared(std::make_shared<const Effect>(effect), {}, {});
        row_ = compiled(ready_, {}, time, placements_in(ready_, time)).front().forces.front().row;
    }

    std::vector<Vec3> at(const std::vector<Vec3>& places) {
        std::vector<Vec3> result;
        for (size_t first = 0; first < places.size(); first += block_size) {
            const int count = int(std::min(places.size() - first, size_t(block_size)));
            block_->count = count;
            for (int i = 0; i < count; ++i) {
                const Vec3& place = places[first + size_t(i)];
                block_->x[i] = place.x;
                block_->y[i] = place.y;
                block_->z[i] = place.z;
            }
            run_.clear({}, *block_, sums_);
            run_.add_force(row_, *block_, 0, {}, sums_);
            for (int i = 0; i < count; ++i) {
                result.push_back({sums_.push_x[i], sums_.push_y[i], sums_.push_z[i]});
            }
        }
        return result;
    }

  private:
    const BlockKernels& run_;
    PreparedEffect ready_; // holds the tables that the row points to
    ForceRow row_{};
    std::unique_ptr<ParticleBlock> block_ = std::make_unique<ParticleBlock>();
    ForceSums sums_{};
};

// Places spread evenly over a large cube, the same in every run.
std::vector<Vec3> scattered_places(int count, float size) {
    std::vector<Vec3> places;
    for (int i = 0; i < count; ++i) {
        const auto share = [i](double step) { return float(std::fmod(0.5 + step * i, 1.0)); };
        places.push_back(
            Vec3{share(0.8191725133961645), share(0.6710436067037893), share(0.5497004779019703)} * size);
    }
    return places;
}

double mean_square(const std::vector<Vec3>& field) {
    double sum = 0;
    for (const Vec3& v : field) {
        sum += double(dot(v, v));
    }
    return sum / double(field.size());
}

} // namespace

class TestKernels : public QObject {
    Q_OBJECT

  private slots:
    void turbulence_has_the_stated_strength_data() {
        QTest::addColumn<int>("octaves");
        QTest::addColumn<float>("churn");
        QTest::newRow("one octave") << 1 << 0.0f;
        QTest::newRow("four octaves") << 4 << 0.0f;
        QTest::newRow("between two time slices") << 1 << 0.5f;
    }
    void turbulence_has_the_stated_strength() {
        QFETCH(int, octaves);
        QFETCH(float, churn);
        FieldProbe probe(Turbulence{.strength = 3, .eddy_size = 1, .octaves = octaves, .churn = churn}, 1.0);
        const double rms = std::sqrt(mean_square(probe.at(scattered_places(200000, 400))));
        qInfo("root mean square %f", rms);
        QVERIFY(std::abs(rms - 3) < 0.06);
    }

    void turbulence_pushes_no_way_on_the_whole() {
        FieldProbe probe(Turbulence{.strength = 1, .eddy_size = 1, .octaves = 1});
        Vec3 sum;
        const auto field = probe.at(scattered_places(200000, 400));
        for (const Vec3& v : field) {
            sum += v;
        }
        QVERIFY(length(sum) / float(field.size()) < 0.02f);
    }

    // The derivative by central differences of the kernel itself: sum of the diagonal against the size of the
    // whole gradient.
    void divergence_of_turbulence_is_under_one_percent_of_its_gradient() {
        FieldProbe probe(
            Turbulence{.strength = 1, .eddy_size = 1, .octaves = 3, .roughness = 0.5f, .churn = 0.4f}, 0.9);
        const float h = 0.01f;
        double divergence = 0, gradient = 0;
        const auto places = scattered_places(20000, 40);
        std::vector<Vec3> by_axis[3];
        for (int axis = 0; axis < 3; ++axis) {
            const Vec3 step = {axis == 0 ? h : 0, axis == 1 ? h : 0, axis == 2 ? h : 0};
            auto ahead = places, behind = places;
            for (Vec3& p : ahead) {
                p += step;
            }
            for (Vec3& p : behind) {
                p -= step;
            }
            const auto plus = probe.at(ahead), minus = probe.at(behind);
            for (size_t i = 0; i < places.size(); ++i) {
                by_axis[axis].push_back((plus[i] - minus[i]) / (2 * h));
            }
        }
        for (size_t i = 0; i < places.size(); ++i) {
            const double trace = double(by_axis[0][i].x) + double(by_axis[1][i].y) + double(by_axis[2][i].z);
            divergence += trace * trace;
            for (const auto& axis : by_axis) {
                gradient += double(dot(axis[i], axis[i]));
            }
        }
        const double share = std::sqrt(divergence / gradient);
        qInfo("divergence is %f of the gradient", share);
        QVERIFY(gradient > 0);
        QVERIFY(share < 0.01);
    }

    void turbulence_is_continuous_across_cells_and_time_slices() {
        FieldProbe probe(Turbulence{.strength = 1, .eddy_size = 1, .octaves = 1});
        const auto across = probe.at({{2.99999f, 0.3f, 0.6f}, {3.00001f, 0.3f, 0.6f}});
        QVERIFY(length(across[1] - across[0]) < 1e-3f);

        const Turbulence churning{.strength = 1, .eddy_size = 1, .octaves = 1, .churn = 1};
        const auto before = FieldProbe(churning, 0.9999).at({{0.3f, 0.4f, 0.7f}});
        const auto after = FieldProbe(churning, 1.0001).at({{0.3f, 0.4f, 0.7f}});
        QVERIFY(length(after[0] - before[0]) < 1e-3f);
        const auto later = FieldProbe(churning, 1.6).at({{0.3f, 0.4f, 0.7f}});
        QVERIFY(length(later[0] - before[0]) > 0.05f);
    }

    void drift_carries_the_field_along() {
        const Turbulence drifting{
            .strength = 1, .eddy_size = 0.5f, .octaves = 2, .churn = 0, .drift = {2, 0, 1}};
        const auto now = FieldProbe(drifting, 0).at({{0.1f, 0.2f, 0.3f}});
        const auto later = FieldProbe(drifting, 1.5).at({{3.1f, 0.2f, 1.8f}});
        QVERIFY(length(later[0] - now[0]) < 1e-3f);
    }

    void instruction_sets_agree_on_the_field() {
        const Turbulence turbulence{.strength = 5, .eddy_size = 0.7f, .octaves = 4, .churn = 0.3f};
        const auto places = scattered_places(5000, 20);
        const auto scalar = FieldProbe(turbulence, 2.2, Isa::scalar).at(places);
        const auto v2 = FieldProbe(turbulence, 2.2, Isa::v2).at(places);
        const auto best = FieldProbe(turbulence, 2.2, best_isa()).at(places);
        for (size_t i = 0; i < places.size(); ++i) {
            QVERIFY(length(scalar[i] - v2[i]) < 1e-3f);
            QVERIFY(length(scalar[i] - best[i]) < 1e-3f);
        }
    }
};

QTEST_APPLESS_MAIN(TestKernels)
#include "tst_kernels.moc"
