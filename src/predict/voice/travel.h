// Controls through their travel: what each does, where along the way it does it, and where all together can reach.
#pragma once

#include "predict/rest/idle.h"

#include <array>

namespace vinegar::predict {

struct TravelQuestion {
  std::string control; ///< a knob of the design
  std::string from = "jack", to = "speaker";
  bool operator==(const TravelQuestion&) const = default;
};

/// How much a control does in each third of its travel, as shares of the whole: the way that the curve goes as it is
/// turned, dB root mean square over 40 Hz to 10 kHz. What is 40 dB under the most that the control lets through counts
/// as off.
struct Thirds {
  std::array<double, 3> share{};
  /// 1 where each third does as much; 3 where one does it all.
  [[nodiscard]] double unevenness() const { return 3 * std::max({share[0], share[1], share[2]}); }
};
struct TaperChoice {
  std::string taper;
  Thirds thirds;
};
struct ValueChoice {
  double value = 0; ///< ohms
  double whole = 0;
  Thirds thirds; ///< with the taper that stands
};
struct Travel {
  std::string control;
  bool isSwitch = false;
  std::vector<double> hertz;
  struct Curve {
    double setting = 0; ///< rotation, or the position from 1
    std::string title;  ///< of a switch's position
    std::vector<double> decibels;
  };
  std::vector<Curve> curves;
  double whole = 0;                ///< dB the whole way, as Thirds measures it
  Thirds thirds;                   ///< of a pot
  std::vector<TaperChoice> tapers; ///< of a pot, all customary laws and its own, the most even first
  std::vector<ValueChoice> values; ///< of a pot without direct current: its dial's neighbours
  std::string taper;               ///< that it has
};
/// Eleven rotations or every position, the rest as the knobs stand. Some tens of milliseconds, more where the control
/// moves direct current. A control that is not there is a Problem.
tl::expected<Travel, Problem> predictTravel(const Idle& idle, const amp::Library& library,
                                            const TravelQuestion& question, const GoOn& goOn = {});

struct EnvelopeQuestion {
  std::vector<std::string> controls; ///< at most three pots
  std::string from = "jack", to = "speaker";
  int steps = 11;
  bool operator==(const EnvelopeQuestion&) const = default;
};
/// What the controls together reach: at every frequency the least and the most over all their settings.
struct Envelope {
  std::vector<double> hertz, least, most;
  std::size_t settings = 0;
};
/// 11 x 11 x 11 settings at 120 frequencies in some tenths of a second on two threads; seconds where a control moves
/// direct current, since each of its places is solved whole: three such at five places each. More than three controls,
/// or a switch, is a Problem.
tl::expected<Envelope, Problem> predictEnvelope(const Idle& idle, const amp::Library& library,
                                                const EnvelopeQuestion& question, const GoOn& goOn = {});

} // namespace vinegar::predict
