#include "tubes/bank.h"

#include <type_traits>

namespace vinegar::tubes {
namespace {

/// Elementary functions and the tubes' laws on N lanes; model.cpp has the laws one at a time, with the reasons.
template <int N> struct Laws : Lanes<N> {
  using typename Lanes<N>::V;
  using typename Lanes<N>::I;
  using Lanes<N>::load;
  using Lanes<N>::put;
  using Lanes<N>::all;

  static VINEGAR_INLINE V max(V a, V b) { return a > b ? a : b; }
  static VINEGAR_INLINE V min(V a, V b) { return a < b ? a : b; }
  static VINEGAR_INLINE V magnitude(V a) { return (V)((I)a & 0x7fffffffffffffff); }
  static VINEGAR_INLINE V root(V a) {
    V r;
    for (int i = 0; i < N; ++i)
      r[i] = __builtin_sqrt(a[i]);
    return r;
  }

  /// 2^n e^r with |r| under half of ln 2, the series to r^12; within 1e-15 of itself.
  static VINEGAR_INLINE V exp(V x) {
    x = max(min(x, all(700)), all(-700));
    // Adding one and a half times 2^52 leaves the nearest whole number in the last digits.
    const V shifted = x * 1.4426950408889634 + 6755399441055744.0;
    const V n = shifted - 6755399441055744.0;
    const V r = (x - n * 6.93147180369123816490e-01) - n * 1.90821492927058770002e-10;
    V p = all(1.0 / 479001600);
    p = p * r + 1.0 / 39916800;
    p = p * r + 1.0 / 3628800;
    p = p * r + 1.0 / 362880;
    p = p * r + 1.0 / 40320;
    p = p * r + 1.0 / 5040;
    p = p * r + 1.0 / 720;
    p = p * r + 1.0 / 120;
    p = p * r + 1.0 / 24;
    p = p * r + 1.0 / 6;
    p = p * r + 0.5;
    p = p * r + 1.0;
    p = p * r + 1.0;
    return (V)((I)p + ((I)shifted << 52));
  }
  /// 2 artanh(s) for |s| up to a third: s (2 + 2/3 s^2 + ...).
  template <int Terms> static VINEGAR_INLINE V twiceArtanh(V s) {
    const V q = s * s;
    V p = all(2.0 / (2 * Terms + 1));
    for (int k = Terms - 1; k >= 0; --k)
      p = p * q + 2.0 / (2 * k + 1);
    return s * p;
  }
  /// Of normal positive numbers.
  static VINEGAR_INLINE V log(V x) {
    const I bits = (I)x;
    I exponent = ((bits >> 52) & 0x7ff) - 1023;
    V m = (V)((bits & 0xfffffffffffff) | 0x3ff0000000000000);
    const I big = m > 1.4142135623730951;
    m = big ? m * 0.5 : m;
    exponent -= big; // true is -1
    const V e = (V)(exponent + 0x4338000000000000) - 6755399441055744.0;
    return e * 6.93147180559945286227e-01 + twiceArtanh<9>((m - 1) / (m + 1));
  }

  struct Curve {
    V value, slope;
  };
  static VINEGAR_INLINE Curve softplus(V x) {
    const V e = exp(-magnitude(x));
    const V share = 1 / (1 + e);
    return {max(x, V{}) + twiceArtanh<15>(e / (2 + e)), x > 0 ? share : e * share};
  }
  static VINEGAR_INLINE Curve ramp(V volts) {
    const V v = max(volts, V{});
    const V d = 1 / (v * v + v + 1);
    return {v * v * v * d, v * v * (v * v + 2 * v + 3) * (d * d)};
  }
  static VINEGAR_INLINE Curve eased(V v) {
    const V d = 1 / (v * v + 0.01);
    return {v * v * v * d, v * v * (v * v + 0.03) * (d * d)};
  }

  const double* values;
  std::ptrdiff_t lanes;
  VINEGAR_INLINE V of(TubeBank::Parameter parameter, int lane) const { return load(values + parameter * lanes + lane); }

  VINEGAR_INLINE void gridOf(int lane, V gridVolts, double* answer) const {
    const V width = of(TubeBank::WG, lane);
    const Curve drive = softplus((gridVolts + of(TubeBank::VG0, lane)) / width);
    const V r = root(width * drive.value), k = of(TubeBank::GF, lane) * of(TubeBank::K, lane) * 1e-3;
    put(answer + TubeBank::grid * lanes + lane, k * (r * r * r));
    put(answer + TubeBank::gridByGrid * lanes + lane, 1.5 * k * r * drive.slope);
  }

  /// What triodes and pentodes share: the drive by control volts within a width that grows with s, the space current
  /// of it, and the knee.
  struct Space {
    V drive, byControl, byWidth, slope, current, edge, k, kByU, uByDrive, easedByEdge;
  };
  VINEGAR_INLINE Space space(int lane, V control, V width, V plateVolts) const {
    Space o;
    const Curve d = softplus(control / width);
    o.drive = width * d.value;
    o.byControl = d.slope;
    o.byWidth = d.value - control / width * d.slope;
    const V x = of(TubeBank::X, lane), tiny = all(1e-300);
    o.slope = of(TubeBank::K, lane) * x * exp((x - 1) * log(max(o.drive, tiny))) * 1e-3;
    o.current = o.slope * o.drive / x;
    const V perDrive = of(TubeBank::LAM, lane) * of(TubeBank::MU, lane);
    o.edge = perDrive * o.drive + of(TubeBank::VK0, lane);
    const Curve e = eased(plateVolts);
    const V u = max(e.value / o.edge, tiny);
    o.uByDrive = -u * perDrive / o.edge;
    o.easedByEdge = e.slope / o.edge;
    const V n = of(TubeBank::N, lane);
    const Curve bend = softplus(-n * log(u));
    o.k = exp(-(x / n) * bend.value);
    o.kByU = o.k * x * bend.slope / u;
    return o;
  }

  VINEGAR_INLINE void triodeAt(int lane, const double* plateVolts, const double* gridVolts, double* answer) const {
    const V grid = load(gridVolts + lane), plate = load(plateVolts + lane);
    const I on = plate > 0;
    const V v = max(plate, V{}), perKp = 1 / of(TubeBank::KP, lane), w0 = of(TubeBank::W0, lane);
    const V width = root(w0 * w0 + v * v * (perKp * perKp));
    const V vct = of(TubeBank::VCT, lane), vc0 = of(TubeBank::VC0, lane), perMu = 1 / of(TubeBank::MU, lane);
    const V fade = 1 / (v + vc0);
    const Space s = space(lane, grid + vct * v * fade + v * perMu, width, v);
    const V driveByPlate = s.byControl * (vct * vc0 * (fade * fade) + perMu) + s.byWidth * v * (perKp * perKp) / width;
    const V byDrive = s.slope * s.k + s.current * s.kByU * s.uByDrive;
    put(answer + TubeBank::plate * lanes + lane, on ? s.current * s.k : V{});
    put(answer + TubeBank::plateByPlate * lanes + lane,
        on ? byDrive * driveByPlate + s.current * s.kByU * s.easedByEdge : V{});
    put(answer + TubeBank::plateByGrid * lanes + lane, on ? byDrive * s.byControl : V{});
    gridOf(lane, grid, answer);
  }

  VINEGAR_INLINE void pentodeAt(int lane, const double* plateVolts, const double* screenVolts, const double* gridVolts,
                                double* answer) const {
    const V grid = load(gridVolts + lane), plate = load(plateVolts + lane);
    const I on = plate > 0;
    const V v = max(plate, V{}), perKp = 1 / of(TubeBank::KP, lane), w0 = of(TubeBank::W0, lane);
    const auto [s, sByScreen] = ramp(load(screenVolts + lane));
    const auto [p, pByPlate] = ramp(plate);
    const V width = root(w0 * w0 + s * s * (perKp * perKp));
    const V vct = of(TubeBank::VCT, lane), vc0 = of(TubeBank::VC0, lane), perMu = 1 / of(TubeBank::MU, lane);
    const V fade = 1 / (s + vc0), perMup = 1 / of(TubeBank::MUP, lane);
    const Space o = space(lane, grid + vct * s * fade + s * perMu + p * perMup, width, v);
    const V driveByS = o.byControl * (vct * vc0 * (fade * fade) + perMu) + o.byWidth * s * (perKp * perKp) / width;
    const V driveByPlate = o.byControl * pByPlate * perMup;
    const V byPlate = o.slope * driveByPlate, byGrid = o.slope * o.byControl, byS = o.slope * driveByS;
    const V m = of(TubeBank::M, lane);
    const V ratio = exp(m * log((v + 1) / (s + 1)));
    const V share = 2 * of(TubeBank::S, lane) / (1 + ratio);
    const V shareByRatio = -share / (1 + ratio);
    const V shareByPlate = shareByRatio * ratio * m / (v + 1), shareByS = -shareByRatio * ratio * m / (s + 1);
    const V above = (1 - share) * o.k, aboveByDrive = (1 - share) * o.kByU * o.uByDrive;
    const V plateAmps = on ? o.current * above : V{};
    const V plateByPlate = on ? byPlate * above + o.current * ((1 - share) * o.kByU * o.easedByEdge -
                                                               shareByPlate * o.k + aboveByDrive * driveByPlate)
                              : V{};
    const V plateByGrid = on ? byGrid * above + o.current * aboveByDrive * o.byControl : V{};
    const V plateByScreen =
        on ? (byS * above + o.current * (aboveByDrive * driveByS - shareByS * o.k)) * sByScreen : V{};
    const auto out = [&](TubeBank::Row row, V value) __attribute__((always_inline)) {
      put(answer + row * lanes + lane, value);
    };
    out(TubeBank::plate, plateAmps);
    out(TubeBank::plateByPlate, plateByPlate);
    out(TubeBank::plateByGrid, plateByGrid);
    out(TubeBank::plateByScreen, plateByScreen);
    const V turnedBack = exp(-s), taken = 1 - turnedBack, rest = o.current - plateAmps;
    out(TubeBank::screen, taken * rest);
    out(TubeBank::screenByPlate, taken * (byPlate - plateByPlate));
    out(TubeBank::screenByGrid, taken * (byGrid - plateByGrid));
    out(TubeBank::screenByScreen, taken * (byS * sByScreen - plateByScreen) + turnedBack * sByScreen * rest);
    gridOf(lane, grid, answer);
  }

  VINEGAR_INLINE void run(int triodes, int pentodesFrom, int pentodes, const double* plateVolts,
                          const double* screenVolts, const double* gridVolts, double* answer) const {
    for (int lane = 0; lane < triodes; lane += N)
      triodeAt(lane, plateVolts, gridVolts, answer);
    for (int lane = pentodesFrom; lane < pentodesFrom + pentodes; lane += N)
      pentodeAt(lane, plateVolts, screenVolts, gridVolts, answer);
  }
};

using Run = void (*)(const double* values, int lanes, int triodes, int pentodesFrom, int pentodes, const double* plate,
                     const double* screen, const double* grid, double* answer);

void runTwo(const double* values, int lanes, int triodes, int from, int pentodes, const double* plate,
            const double* screen, const double* grid, double* answer) {
  Laws<2>{{}, values, lanes}.run(triodes, from, pentodes, plate, screen, grid, answer);
}
VINEGAR_FOUR void runFour(const double* values, int lanes, int triodes, int from, int pentodes, const double* plate,
                          const double* screen, const double* grid, double* answer) {
  Laws<4>{{}, values, lanes}.run(triodes, from, pentodes, plate, screen, grid, answer);
}
VINEGAR_EIGHT void runEight(const double* values, int lanes, int triodes, int from, int pentodes, const double* plate,
                            const double* screen, const double* grid, double* answer) {
  Laws<8>{{}, values, lanes}.run(triodes, from, pentodes, plate, screen, grid, answer);
}

} // namespace

TubeBank::TubeBank(const std::vector<Tube<TriodeModel>>& triodes, const std::vector<Tube<PentodeModel>>& pentodes,
                   Width width)
    : width_(width), triodes_(static_cast<int>(triodes.size())), pentodes_(static_cast<int>(pentodes.size())),
      pentodesFrom_(padded(triodes_)), lanes_(pentodesFrom_ + padded(pentodes_)),
      values_(static_cast<std::size_t>(parameters * lanes_), 1.0) { // in empty lanes anything finite
  const auto place = [&](int lane, const auto& tube) {
    const auto put = [&](Parameter p, double value) { values_[static_cast<std::size_t>(p * lanes_ + lane)] = value; };
    const auto& m = tube.model;
    put(K, m.K), put(MU, m.MU), put(X, m.X), put(VCT, m.VCT), put(KP, m.KP), put(W0, m.W0), put(LAM, m.LAM);
    put(N, m.N), put(VK0, m.VK0), put(VC0, m.VC0);
    put(GF, tube.grid.GF), put(VG0, tube.grid.VG0), put(WG, tube.grid.WG);
    if constexpr (std::is_same_v<std::decay_t<decltype(m)>, PentodeModel>) put(MUP, m.MUP), put(S, m.S), put(M, m.M);
  };
  int lane = 0;
  for (const auto& triode : triodes)
    place(lane++, triode);
  lane = pentodesFrom_;
  for (const auto& pentode : pentodes)
    place(lane++, pentode);
}

void TubeBank::evaluate(const double* plateVolts, const double* screenVolts, const double* gridVolts,
                        double* answer) const {
  const Run run = width_ == Width::eight ? runEight : width_ == Width::four ? runFour : runTwo;
  run(values_.data(), lanes_, triodes_, pentodesFrom_, pentodes_, plateVolts, screenVolts, gridVolts, answer);
}

} // namespace vinegar::tubes
