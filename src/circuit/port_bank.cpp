#include "circuit/port_bank.h"

namespace vinegar::circuit {

using tubes::TubeBank;

PortBank::PortBank(const Ports& ports, tubes::Width width) {
  std::vector<TubeBank::Tube<tubes::TriodeModel>> triodes;
  std::vector<TubeBank::Tube<tubes::PentodeModel>> pentodes;
  int index = 0;
  for (const auto& device : ports.devices()) {
    if (const auto* triode = std::get_if<Triode>(device.law)) {
      banked_.push_back({index, device.first, device.count, static_cast<int>(triodes.size())});
      triodes.push_back({triode->model, triode->grid});
    } else if (const auto* pentode = std::get_if<Pentode>(device.law)) {
      banked_.push_back({index, device.first, device.count, static_cast<int>(pentodes.size())});
      pentodes.push_back({pentode->model, pentode->grid});
    } else {
      single_.push_back(device);
      singleAt_.push_back(index);
    }
    ++index;
  }
  bank_ = TubeBank(triodes, pentodes, width);
  for (auto& tube : banked_)
    if (tube.count == 3) tube.lane += bank_.pentodesFrom();
}

PortScratch PortBank::scratch() const {
  const std::vector<double> lanes(static_cast<std::size_t>(std::max(bank_.lanes(), 1)));
  return {lanes, lanes, lanes, std::vector<double>(lanes.size() * TubeBank::rows)};
}

void PortBank::evaluate(const double* volts, double* currents, double* slopes, PortScratch& s) const {
  const std::ptrdiff_t lanes = bank_.lanes();
  for (const auto& tube : banked_) {
    const double* own = volts + tube.first;
    s.plate[static_cast<std::size_t>(tube.lane)] = own[0];
    if (tube.count == 3) s.screen[static_cast<std::size_t>(tube.lane)] = own[1];
    s.grid[static_cast<std::size_t>(tube.lane)] = own[tube.count - 1];
  }
  if (lanes > 0) bank_.evaluate(s.plate.data(), s.screen.data(), s.grid.data(), s.laws.data());
  for (const auto& tube : banked_) {
    const double* law = s.laws.data() + tube.lane;
    double *own = slopes + 9 * static_cast<std::ptrdiff_t>(tube.device), *amps = currents + tube.first;
    const auto row = [&](TubeBank::Row which) { return law[which * lanes]; };
    amps[0] = row(TubeBank::plate);
    own[0] = row(TubeBank::plateByPlate);
    if (tube.count == 3) {
      amps[1] = row(TubeBank::screen);
      amps[2] = row(TubeBank::grid);
      own[1] = row(TubeBank::plateByScreen);
      own[2] = row(TubeBank::plateByGrid);
      own[3] = row(TubeBank::screenByPlate);
      own[4] = row(TubeBank::screenByScreen);
      own[5] = row(TubeBank::screenByGrid);
      own[6] = own[7] = 0;
      own[8] = row(TubeBank::gridByGrid);
    } else {
      amps[1] = row(TubeBank::grid);
      own[1] = row(TubeBank::plateByGrid);
      own[3] = 0;
      own[4] = row(TubeBank::gridByGrid);
    }
  }
  for (std::size_t i = 0; i < single_.size(); ++i) {
    const auto& device = single_[i];
    std::array<double, 4> own{};
    std::copy_n(volts + device.first, device.count, own.begin());
    const auto pins = pinsOf(*device.law, own);
    for (int a = 0; a < device.count; ++a) {
      currents[device.first + a] = pins.current[static_cast<std::size_t>(a)];
      for (int b = 0; b < device.count; ++b)
        slopes[9 * singleAt_[i] + 3 * a + b] = pins.slopes[static_cast<std::size_t>(a)][static_cast<std::size_t>(b)];
    }
  }
}

} // namespace vinegar::circuit
