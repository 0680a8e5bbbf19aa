#include "tubes/model.h"

#include <cmath>

namespace vinegar::tubes {
namespace {

struct Curve {
  double value, slope;
};

/// ln(1 + e^x) and its slope, without overflow either way.
Curve softplus(double x) {
  if (x > 0) {
    const double e = std::exp(-x);
    return {x + std::log1p(e), 1 / (1 + e)};
  }
  const double e = std::exp(x);
  return {std::log1p(e), e / (1 + e)};
}

/// v^3/(v^2+v+1) above zero: a line less a volt that starts with neither slope nor bend, so that nothing jumps when an
/// electrode passes the cathode.
Curve ramp(double v) {
  if (v <= 0) return {0, 0};
  const double d = v * v + v + 1;
  return {v * v * v / d, v * v * (v * v + 2 * v + 3) / (d * d)};
}

/// v^3/(v^2+0.01) above zero: v itself but for its first tenths of a volt, where the knee's power law would bend
/// without limit.
Curve eased(double v) {
  if (v <= 0) return {0, 0};
  constexpr double c = 0.01;
  const double d = v * v + c;
  return {v * v * v / d, v * v * (v * v + 3 * c) / (d * d)};
}

Curve knee(double u, double X, double N) {
  if (u <= 0) return {0, 0};
  const auto [value, slope] = softplus(-N * std::log(u));
  const double k = std::exp(-(X / N) * value);
  return {k, k * X * slope / u};
}

/// E = w ln(1 + exp(c/w)), slopes by c and by w.
struct SmoothDrive {
  double value, byControl, byWidth;
};
SmoothDrive smoothDrive(double control, double width) {
  const auto [value, slope] = softplus(control / width);
  return {width * value, slope, value - control / width * slope};
}

constexpr double milli = 1e-3;

/// Grid volts times gm inside the law is the same law with these parameters: all that stands beside the grid's volts is
/// divided by gm and the whole drive comes out gm times as large.
template <class Model> void wearShared(Model& m, const Wear& wear) {
  m.K *= wear.emission * std::pow(wear.gm, m.X);
  m.MU *= wear.gm;
  m.VCT /= wear.gm;
  m.W0 /= wear.gm;
  m.KP *= wear.gm;
}

} // namespace

TriodeModel worn(TriodeModel m, const Wear& wear) {
  wearShared(m, wear);
  return m;
}

PentodeModel worn(PentodeModel m, const Wear& wear) {
  wearShared(m, wear);
  m.MUP *= wear.gm;
  return m;
}

TriodeCurrent triodeCurrent(const TriodeModel& m, double plateVolts, double gridVolts) {
  if (!(plateVolts > 0)) return {};
  const double v = plateVolts;
  const double w = std::sqrt(m.W0 * m.W0 + v / m.KP * (v / m.KP));
  const double wByPlate = v / (m.KP * m.KP * w);
  const double fade = v + m.VC0;
  const double control = gridVolts + m.VCT * v / fade + v / m.MU;
  const double controlByPlate = m.VCT * m.VC0 / (fade * fade) + 1 / m.MU;
  const auto drive = smoothDrive(control, w);
  const double driveByPlate = drive.byControl * controlByPlate + drive.byWidth * wByPlate;

  const double slope = m.K * m.X * std::pow(drive.value, m.X - 1) * milli;
  const double space = slope * drive.value / m.X;
  const double edge = m.LAM * m.MU * drive.value + m.VK0;
  const auto [easedVolts, easedByPlate] = eased(v);
  const double u = easedVolts / edge;
  const double uByDrive = -u * m.LAM * m.MU / edge;
  const auto [k, kByU] = knee(u, m.X, m.N);

  const double byDrive = slope * k + space * kByU * uByDrive;
  return {space * k, byDrive * driveByPlate + space * kByU * easedByPlate / edge, byDrive * drive.byControl};
}

PentodeCurrent pentodeCurrent(const PentodeModel& m, double plateVolts, double gridVolts, double screenVolts) {
  const double v = plateVolts > 0 ? plateVolts : 0;
  const auto [s, sByScreen] = ramp(screenVolts);
  const auto [p, pByPlate] = ramp(plateVolts);
  const double w = std::sqrt(m.W0 * m.W0 + s / m.KP * (s / m.KP));
  const double wByS = s / (m.KP * m.KP * w);
  const double fade = s + m.VC0;
  const double control = gridVolts + m.VCT * s / fade + s / m.MU + p / m.MUP;
  const auto drive = smoothDrive(control, w);
  const double driveByS = drive.byControl * (m.VCT * m.VC0 / (fade * fade) + 1 / m.MU) + drive.byWidth * wByS;
  const double driveByPlate = drive.byControl * pByPlate / m.MUP;

  const double slope = m.K * m.X * std::pow(drive.value, m.X - 1) * milli;
  const double space = slope * drive.value / m.X;

  PentodeCurrent out;
  const double spaceByPlate = slope * driveByPlate;
  const double spaceByGrid = slope * drive.byControl;
  const double spaceByS = slope * driveByS;
  if (v > 0) {
    const double ratio = std::pow((v + 1) / (s + 1), m.M);
    const double share = 2 * m.S / (1 + ratio);
    const double shareByRatio = -share / (1 + ratio);
    const double shareByPlate = shareByRatio * ratio * m.M / (v + 1);
    const double shareByS = -shareByRatio * ratio * m.M / (s + 1);
    const double edge = m.LAM * m.MU * drive.value + m.VK0;
    const auto [easedVolts, easedByPlate] = eased(v);
    const double u = easedVolts / edge;
    const double uByDrive = -u * m.LAM * m.MU / edge;
    const auto [k, kByU] = knee(u, m.X, m.N);
    const double above = (1 - share) * k;
    const double aboveByDrive = (1 - share) * kByU * uByDrive;
    out.plate = space * above;
    out.plateByPlate = spaceByPlate * above + space * ((1 - share) * kByU * easedByPlate / edge - shareByPlate * k +
                                                       aboveByDrive * driveByPlate);
    out.plateByGrid = spaceByGrid * above + space * aboveByDrive * drive.byControl;
    out.plateByScreen = (spaceByS * above + space * (aboveByDrive * driveByS - shareByS * k)) * sByScreen;
  }
  // A screen that is not positive draws nothing, however soft the law's cut-off; above some volts this is one.
  const double turnedBack = std::exp(-s), taken = 1 - turnedBack;
  const double rest = space - out.plate;
  out.screen = taken * rest;
  out.screenByPlate = taken * (spaceByPlate - out.plateByPlate);
  out.screenByGrid = taken * (spaceByGrid - out.plateByGrid);
  out.screenByScreen = taken * (spaceByS * sByScreen - out.plateByScreen) + turnedBack * sByScreen * rest;
  return out;
}

GridCurrent gridCurrent(const GridCurrentModel& m, double K, double gridVolts) {
  const auto [value, slope] = softplus((gridVolts + m.VG0) / m.WG);
  const double root = std::sqrt(m.WG * value);
  return {m.GF * K * root * root * root * milli, 1.5 * m.GF * K * root * slope * milli};
}

} // namespace vinegar::tubes
