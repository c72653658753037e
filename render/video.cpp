// Frames of a bake as one video, by the libraries of FFmpeg.
#include "render/bake_painter.h"
#include "render/writing_threads.h"

#include "core/base/file.h"
#include "core/base/octave_table.h"

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libswscale/swscale.h>
}

#include <cmath>
#include <thread>

namespace ember {

namespace {

struct VideoKind {
    const char* name;
    const char* encoder;
    const char* container;
    const char* ending;
    AVPixelFormat pixels;
    const char* words;
};

const VideoKind& kind_of(VideoFormat format) {
    static const VideoKind kinds[] = {
        {"H.264", "libx264", "mp4", "mp4", AV_PIX_FMT_YUV420P, "H.264 in MP4, BT.709"},
        {"VP9", "libvpx-vp9", "webm", "webm", AV_PIX_FMT_YUV420P, "VP9 in WebM, BT.709"},
        {"ProRes 4444", "prores_ks", "mov", "mov", AV_PIX_FMT_YUVA444P10LE, "ProRes 4444 in MOV, BT.709"},
        {"PNG", "png", "mov", "mov", AV_PIX_FMT_RGBA, "PNG in MOV, sRGB, opacity not multiplied in"}};
    return kinds[int(format)];
}

std::string words_of(int code) {
    char words[AV_ERROR_MAX_STRING_SIZE] = {};
    av_strerror(code, words, sizeof words);
    return words;
}

struct FreeContext {
    void operator()(AVCodecContext* context) const { avcodec_free_context(&context); }
    void operator()(AVFormatContext* context) const { avformat_free_context(context); }
    void operator()(AVFrame* frame) const { av_frame_free(&frame); }
    void operator()(AVPacket* packet) const { av_packet_free(&packet); }
    void operator()(SwsContext* context) const { sws_freeContext(context); }
    void operator()(AVIOContext* context) const {
        av_freep(&context->buffer);
        avio_context_free(&context);
    }
};
template <class T>
using Owned = std::unique_ptr<T, FreeContext>;

int write_bytes(void* to, uint8_t* bytes, int count) {
    auto& stream = *static_cast<std::ostream*>(to);
    stream.write(reinterpret_cast<const char*>(bytes), count);
    return stream ? count : AVERROR(ENOSPC);
}

int64_t seek_to(void* in, int64_t offset, int whence) {
    auto& stream = *static_cast<std::ostream*>(in);
    if (whence == AVSEEK_SIZE) {
        return -1;
    }
    stream.seekp(offset, whence == SEEK_CUR   ? std::ios::cur
                         : whence == SEEK_END ? std::ios::end
                                              : std::ios::beg);
    return stream ? int64_t(stream.tellp()) : -1;
}

class Encoder {
  public:
    Encoder(std::ostream& stream, const BakedPicture& picture, const VideoKind& kind, double frames_per_s) {
        av_log_set_level(AV_LOG_ERROR); // what is worth saying is said by us
        const AVCodec* codec = avcodec_find_encoder_by_name(kind.encoder);
        AVFormatContext* container = nullptr;
        check(avformat_alloc_output_context2(&container, nullptr, kind.container, nullptr));
        container_.reset(container);
        context_.reset(codec != nullptr ? avcodec_alloc_context3(codec) : nullptr);
        if (!problem_.empty() || !context_) {
            problem_ = problem_.empty() ? "there is no encoder here for it" : problem_;
            return;
        }
        context_->width = picture.width;
        context_->height = picture.height;
        context_->pix_fmt = kind.pixels;
        context_->framerate = av_d2q(frames_per_s, 100'000);
        context_->time_base = av_inv_q(context_->framerate);
        context_->gop_size = int(std::lround(frames_per_s));
        context_->flags |= AV_CODEC_FLAG_BITEXACT; // the same frames make the same bytes
        context_->thread_count = int(std::min(std::thread::hardware_concurrency(), 16u));
        const bool is_rgb = kind.pixels == AV_PIX_FMT_RGBA;
        if (!is_rgb) {
            context_->colorspace = AVCOL_SPC_BT709;
            context_->color_primaries = AVCOL_PRI_BT709;
            context_->color_trc = AVCOL_TRC_BT709;
            context_->color_range = AVCOL_RANGE_MPEG;
        }
        if ((container_->oformat->flags & AVFMT_GLOBALHEADER) != 0) {
            context_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
        }
        AVDictionary* options = nullptr;
        const auto set = [&](const char* key, const char* value) { av_dict_set(&options, key, value, 0); };
        if (kind.encoder == std::string("libx264")) {
            set("preset", "ultrafast"); // of the same quality, in larger files: drawing needs the cores, too
            set("crf", "14");
        } else if (kind.encoder == std::string("libvpx-vp9")) {
            set("crf", "16");
            set("b", "0");
            set("deadline", "realtime");
            set("cpu-used", "6");
            set("row-mt", "1");
        } else if (kind.encoder == std::string("prores_ks")) {
            set("profile", "4444");
            set("alpha_bits", "16");
        } else {
            context_->compression_level = 2;
        }
        check(avcodec_open2(context_.get(), codec, &options));
        av_dict_free(&options);
        AVStream* track = avformat_new_stream(container_.get(), nullptr);
        if (!problem_.empty() || track == nullptr) {
            return;
        }
        track->time_base = context_->time_base;
        track->avg_frame_rate = context_->framerate;
        check(avcodec_parameters_from_context(track->codecpar, context_.get()));
        constexpr int buffer_bytes = 1 << 16;
        io_.reset(avio_alloc_context(static_cast<uint8_t*>(av_malloc(buffer_bytes)), buffer_bytes, 1, &stream,
                                     nullptr, write_bytes, seek_to));
        container_->pb = io_.get();
        container_->flags |= AVFMT_FLAG_BITEXACT;
        check(avformat_write_header(container_.get(), nullptr));
        frame_.reset(av_frame_alloc());
        frame_->format = kind.pixels;
        frame_->width = picture.width;
        frame_->height = picture.height;
        check(av_frame_get_buffer(frame_.get(), 0));
        packet_.reset(av_packet_alloc());
        const AVPixelFormat from = picture.is_alone ? AV_PIX_FMT_RGBA : AV_PIX_FMT_BGRA;
        scale_.reset(sws_getContext(picture.width, picture.height, from, picture.width, picture.height,
                                    kind.pixels, SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT, nullptr,
                                    nullptr, nullptr));
        if (!is_rgb && scale_) {
            const int* table = sws_getCoefficients(SWS_CS_ITU709);
            sws_setColorspaceDetails(scale_.get(), table, 1, table, 0, 0, 1 << 16, 1 << 16);
        }
    }

    /// Four bytes a pixel: blue, green, red and 255; or red, green, blue, opacity if it is alone.
    void add(const uint8_t* pixels) {
        if (!problem_.empty()) {
            return;
        }
        check(av_frame_make_writable(frame_.get()));
        const uint8_t* planes[] = {pixels};
        const int strides[] = {4 * context_->width};
        sws_scale(scale_.get(), planes, strides, 0, context_->height, frame_->data, frame_->linesize);
        frame_->pts = count_++;
        encode(frame_.get());
    }
    void end() {
        if (problem_.empty()) {
            encode(nullptr);
            check(av_write_trailer(container_.get()));
            avio_flush(io_.get());
        }
    }
    const std::string& problem() const { return problem_; }

  private:
    void check(int code) {
        if (code < 0 && problem_.empty()) {
            problem_ = words_of(code);
        }
    }
    void encode(const AVFrame* frame) {
        check(avcodec_send_frame(context_.get(), frame));
        AVStream* track = container_->streams[0];
        while (problem_.empty()) {
            const int code = avcodec_receive_packet(context_.get(), packet_.get());
            if (code == AVERROR(EAGAIN) || code == AVERROR_EOF) {
                return;
            }
            check(code);
            packet_->duration = 1;
            av_packet_rescale_ts(packet_.get(), context_->time_base, track->time_base);
            packet_->stream_index = 0;
            check(av_interleaved_write_frame(container_.get(), packet_.get()));
        }
    }

    std::string problem_;
    Owned<AVIOContext> io_;
    Owned<AVFormatContext> container_;
    Owned<AVCodecContext> context_;
    Owned<AVFrame> frame_;
    Owned<AVPacket> packet_;
    Owned<SwsContext> scale_;
    int64_t count_ = 0;
};

class VideoFile : public BakeWriter {
  public:
    VideoFile(const BakeOrder& order, std::shared_ptr<BakePainter> painter, const BakedPicture& picture,
              VideoFormat format)
        : order_(order), painter_(std::move(painter)), picture_(picture), kind_(kind_of(format)),
          name_(std::string(format == VideoFormat::png ? "video-png." : "video.") + kind_.ending) {}

    BakedFiles files() const override {
        return {"video",
                name_,
                {{"format", kind_.words},
                 {"size_px", std::to_string(picture_.width) + "x" + std::to_string(picture_.height)},
                 {"opacity", picture_.is_alone ? "without the stage, with opacity" : "none"}}};
    }
    bool has(int) const override {
        std::error_code error;
        return std::filesystem::is_regular_file(order_.folder / name_, error);
    }
    std::optional<Problem> add(const Simulation&, const Frame& frame, int number) override {
        const auto still = painter_->draw(frame, number, picture_, StillKind::finished);
        if (!encoder_) {
            file_ = std::make_unique<GrowingFile>(order_.folder / name_);
            if (file_->problem()) {
                return file_->problem();
            }
            encoder_ = std::make_unique<Encoder>(file_->stream(), picture_, kind_, order_.frames_per_s);
            if (auto refused = problem()) {
                return refused;
            }
        }
        writing_.add([this, still] {
            encode(*still);
            return problem();
        });
        return writing_.problem();
    }
    std::optional<Problem> end() override {
        if (!encoder_) {
            return std::nullopt;
        }
        if (auto refused = writing_.finish()) {
            return refused;
        }
        encoder_->end();
        const auto refused = problem();
        return refused ? refused : file_->keep();
    }
    uint64_t bytes_of_frame() const override {
        const uint64_t pixels = uint64_t(picture_.width) * uint64_t(picture_.height);
        return kind_.ending == std::string("mov") ? pixels * 2 : pixels / 8;
    }

  private:
    void encode(const Still& still) {
        if (!picture_.is_alone) {
            encoder_->add(reinterpret_cast<const uint8_t*>(still.picture.pixels.data()));
        } else {
            const OctaveTable& srgb = quick_srgb();
            codes_.resize(still.image.pixels.size() * 4);
            for (size_t i = 0; i < still.image.pixels.size(); ++i) {
                const Colour& c = still.image.pixels[i];
                const auto code = [](float part) {
                    return uint8_t(std::clamp(part, 0.0f, 1.0f) * 255 + 0.5f);
                };
                codes_[4 * i] = code(srgb.at(c.red));
                codes_[4 * i + 1] = code(srgb.at(c.green));
                codes_[4 * i + 2] = code(srgb.at(c.blue));
                codes_[4 * i + 3] = code(c.alpha);
            }
            encoder_->add(codes_.data());
        }
    }
    std::optional<Problem> problem() const {
        return encoder_->problem().empty()
                   ? std::nullopt
                   : std::optional(
                         Problem{(order_.folder / name_).string(), 0, "",
                                 std::string(kind_.name) + " could not be written: " + encoder_->problem(),
                                 "another kind of video, or room on the disk"});
    }

    BakeOrder order_;
    std::shared_ptr<BakePainter> painter_;
    BakedPicture picture_;
    const VideoKind& kind_;
    std::string name_;
    std::unique_ptr<GrowingFile> file_;
    std::unique_ptr<Encoder> encoder_; // goes before the file that it writes to
    std::vector<uint8_t> codes_;
    WritingThreads writing_; // ends before what it works with
};

} // namespace

std::optional<Problem> refusal_of_video(const BakeOrder& order, const BakedPicture& picture,
                                        VideoFormat format) {
    const VideoKind& kind = kind_of(format);
    const auto refuse = [&](std::string found, std::string expected) {
        return Problem{order.folder.string(), 0, kind.name, std::move(found), std::move(expected)};
    };
    if (avcodec_find_encoder_by_name(kind.encoder) == nullptr) {
        return refuse("no encoder for it in this machine's libraries", "another kind of video");
    }
    const bool has_opacity = format == VideoFormat::prores || format == VideoFormat::png;
    if (picture.is_alone && !has_opacity) {
        return refuse("pictures with opacity, which such videos do not have",
                      "ProRes 4444 or PNG, or the stage");
    }
    if (!has_opacity && (picture.width % 2 != 0 || picture.height % 2 != 0)) {
        return refuse(std::to_string(picture.width) + "x" + std::to_string(picture.height),
                      "an even width and an even height");
    }
    return std::nullopt;
}

std::unique_ptr<BakeWriter> video_file(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                       const BakedPicture& picture, VideoFormat format) {
    return std::make_unique<VideoFile>(order, painter, picture, format);
}

} // namespace ember
