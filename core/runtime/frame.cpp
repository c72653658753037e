#include "core/runtime/frame.h"

namespace ember {

size_t Frame::particle_count() const {
    size_t count = 0;
    for (const FrameSource& source : sources) {
        count += source.particles.size();
    }
    return count;
}

size_t Frame::bytes() const {
    size_t bytes = 0;
    for (const FrameSource& source : sources) {
        bytes += source.particles.capacity() * sizeof(FrameParticle);
    }
    return bytes;
}

} // namespace ember
