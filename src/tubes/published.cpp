#include "tubes/published.h"

namespace vinegar::tubes {

SmallSignal modelAt(const TubeType& type, const PublishedPoint& point) {
  SmallSignal out;
  double conductance = 0;
  if (const auto* triode = std::get_if<TriodeModel>(&type.model)) {
    const auto c = triodeCurrent(*triode, point.plateVolts, point.gridVolts);
    out.plateAmps = c.plate;
    out.gm = c.byGrid;
    conductance = c.byPlate;
  } else {
    const auto& model = std::get<PentodeModel>(type.model);
    const double screen = point.triodeConnected ? point.plateVolts : point.screenVolts.value_or(point.plateVolts);
    const auto c = pentodeCurrent(model, point.plateVolts, point.gridVolts, screen);
    out.plateAmps = c.plate;
    out.screenAmps = c.screen;
    out.gm = c.plateByGrid;
    conductance = c.plateByPlate;
    out.screenMu = (c.plateByGrid + c.screenByGrid) / (c.plateByScreen + c.screenByScreen);
    if (point.triodeConnected) { // plate and screen are one electrode: currents and slopes add
      out.plateAmps += c.screen;
      out.gm += c.screenByGrid;
      conductance += c.plateByScreen + c.screenByPlate + c.screenByScreen;
    }
  }
  out.rp = 1 / conductance;
  out.mu = out.gm / conductance;
  return out;
}

std::vector<Deviation> compareWithPublished(const TubeType& type) {
  std::vector<Deviation> deviations;
  for (const auto& point : type.published) {
    const auto model = modelAt(type, point);
    const auto add = [&](const char* quantity, std::optional<double> published, double modelled, double bar) {
      if (published && *published > 0)
        deviations.push_back({point, quantity, *published, modelled, modelled / *published - 1, bar});
    };
    const bool likeTriode = type.isTriode() || point.triodeConnected;
    add("ip", point.plateAmps, model.plateAmps, 0.07);
    add("ig2", point.screenAmps, model.screenAmps, 0);
    add("gm", point.gm, model.gm, 0.10);
    add("mu", likeTriode ? point.mu : std::nullopt, model.mu, 0.07);
    add("rp", point.rp, model.rp, likeTriode ? 0.15 : 0.5);
    add("mu_g1g2", point.screenMu, model.screenMu, 0);
  }
  return deviations;
}

} // namespace vinegar::tubes
