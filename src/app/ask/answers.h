#pragma once

#include "document/sides.h"
#include "predict/rest/idle.h"

namespace vinegar::app {

template <class T> struct Answer {
  Side side;
  tl::expected<std::shared_ptr<const T>, Problem> value = tl::unexpected(Problem{});

  [[nodiscard]] const T* get() const { return value ? value->get() : nullptr; }
};

/// What came of one question for each side, in the order of Sides. Empty until the first answer.
template <class T> struct Answers {
  std::uint64_t edition = 0; ///< of the sides that were asked
  std::vector<Answer<T>> sides;

  [[nodiscard]] bool empty() const { return sides.empty(); }
  [[nodiscard]] const Answer<T>* of(Side::Look look) const {
    for (const auto& answer : sides)
      if (answer.side.look == look) return &answer;
    return nullptr;
  }
  [[nodiscard]] const Answer<T>* ink() const { return of(Side::Look::ink); }
  /// The active sheet's, where it has marks.
  [[nodiscard]] const Answer<T>* pencil() const { return of(Side::Look::active); }
  /// What stands: the pencil's, or the ink's when nothing is pencilled.
  [[nodiscard]] const Answer<T>* now() const { return pencil() ? pencil() : ink(); }
  /// The answers themselves, null where there is none.
  [[nodiscard]] const T* inkValue() const { return ink() ? ink()->get() : nullptr; }
  [[nodiscard]] const T* pencilValue() const { return pencil() ? pencil()->get() : nullptr; }
  [[nodiscard]] const T* nowValue() const { return now() ? now()->get() : nullptr; }
  /// The first that has an answer: what both sides have in common can be read from it.
  [[nodiscard]] const T* any() const { return inkValue() ? inkValue() : nowValue(); }
  /// Why what stands has no answer; null where it has one.
  [[nodiscard]] const Problem* problem() const { return now() && !now()->value ? &now()->value.error() : nullptr; }
};

} // namespace vinegar::app
