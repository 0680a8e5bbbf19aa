// The shipped phrases as sounds.
#pragma once

#include "files/phrases.h"
#include "support/paths.h"

#include <gtest/gtest.h>

namespace vinegar::testing_support {

inline const files::Phrases& phrases() {
  static const auto all = files::readPhrases(folder("data"));
  EXPECT_TRUE(all);
  return *all;
}
inline std::shared_ptr<const predict::Sound> sound(const std::string& phrase,
                                                   const std::string& instrument = "guitar") {
  for (const auto& one : phrases().phrases)
    for (const auto& other : phrases().instruments)
      if (one.id == phrase && other.id == instrument) return std::make_shared<const predict::Sound>(one, other);
  ADD_FAILURE() << phrase << instrument;
  return nullptr;
}
/// A note that does not fade, all of one frequency.
inline std::shared_ptr<const predict::Sound> heldSine(double hertz, double sounds, double seconds) {
  predict::Phrase phrase;
  phrase.seconds = seconds;
  phrase.held = true;
  phrase.rise = 0.02;
  phrase.notes = {{0, sounds, hertz, 1}};
  return std::make_shared<const predict::Sound>(phrase, predict::Instrument{"pure", "pure", 0.5, 0.5, 2, 1, 1});
}

} // namespace vinegar::testing_support
