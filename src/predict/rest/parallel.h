#pragma once

#include "predict/rest/prediction.h"

#include <atomic>
#include <thread>

namespace vinegar::predict {

/// Calls `work(index, goes)` for every index below `count` on this thread and one more, in that order as far as there
/// is one; `goes` tells whether to go on. False when `goOn`, which is asked from this thread alone, said to stop.
template <class Work> bool inTwoThreads(std::size_t count, const GoOn& goOn, const Work& work) {
  std::atomic<std::size_t> next = 0, done = 0;
  std::atomic<bool> stop = false;
  const auto run = [&](bool tells) {
    const GoOn goes = [&, tells](double) {
      if (tells && goOn && !goOn(static_cast<double>(done) / static_cast<double>(count))) stop = true;
      return !stop;
    };
    for (std::size_t i = next++; i < count && goes(0); i = next++) {
      work(i, goes);
      ++done;
    }
  };
  {
    std::jthread other(run, false);
    run(true);
  }
  return !stop;
}

} // namespace vinegar::predict
