// Crisp Ember for C++17: owners for what crisp_ember.h hands out.
//
//     ember_api::Effect effect("spray.ember.json");          // throws std::runtime_error, which says why
//     ember_api::Run run(effect);
//     run.step();
//     run.each_block("spray", [](const ember_block& block) { ... });
#pragma once

#include "crisp_ember.h"

#include <memory>
#include <new>
#include <stdexcept>
#include <string>

namespace ember_api {

class Effect {
  public:
    explicit Effect(const std::string& path) {
        char why[1024] = "";
        effect_.reset(ember_open(path.c_str(), why, sizeof why));
        if (!effect_) {
            throw std::runtime_error(why);
        }
    }
    const ember_effect* get() const { return effect_.get(); }

  private:
    struct Close {
        void operator()(ember_effect* effect) const { ember_close(effect); }
    };
    std::unique_ptr<ember_effect, Close> effect_;
};

class Run {
  public:
    explicit Run(const Effect& effect) : run_(ember_start(effect.get())) {
        if (!run_) {
            throw std::bad_alloc();
        }
    }
    void step() { ember_step(run_.get()); }
    double time_s() const { return ember_time(run_.get()); }
    void set(const std::string& id, const std::string& parameter, double value) {
        if (ember_set_number(run_.get(), id.c_str(), parameter.c_str(), value) == 0) {
            throw std::invalid_argument(ember_why(run_.get()));
        }
    }
    template <class Visit>
    void each_block(const std::string& id, Visit visit) const {
        ember_block block;
        for (size_t i = 0; ember_get_block(run_.get(), id.c_str(), i, &block) != 0; ++i) {
            visit(block);
        }
    }
    ember_run* get() const { return run_.get(); }

  private:
    struct Stop {
        void operator()(ember_run* run) const { ember_stop(run); }
    };
    std::unique_ptr<ember_run, Stop> run_;
};

} // namespace ember_api
