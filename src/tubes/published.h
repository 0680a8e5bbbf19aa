#pragma once

#include "tubes/catalogue.h"

#include <string>
#include <vector>

namespace vinegar::tubes {

/// What a model says at a published point, in the point's own units: ampere, siemens, ohm.
struct SmallSignal {
  double plateAmps = 0, screenAmps = 0, gm = 0, rp = 0, mu = 0;
  double screenMu = 0; ///< how many screen volts one grid volt is worth for the space current; 0 for triodes
};
SmallSignal modelAt(const TubeType& type, const PublishedPoint& point);

/// One published figure against the model's.
struct Deviation {
  PublishedPoint point;
  std::string quantity; ///< "ip", "ig2", "gm", "mu", "rp", "mu_g1g2"
  double published = 0, modelled = 0;
  double error = 0; ///< modelled / published - 1
  double bar = 0;   ///< the largest |error| we accept; 0: reported, no bar
  [[nodiscard]] bool over() const { return bar > 0 && std::max(1 + error, 1 / (1 + error)) > 1 + bar; }
};

/// Every published figure of a tube. Bars: plate current 7 %, gm 10 %, mu 7 %, rp 15 % (a factor of 1.5 for pentodes).
std::vector<Deviation> compareWithPublished(const TubeType& type);

} // namespace vinegar::tubes
