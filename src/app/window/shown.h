#pragma once

#include "predict/overview.h"

#include <QString>
#include <memory>
#include <vector>

namespace vinegar::app {

/// What the window shows: the ink and each pencil sheet that has marks, the active one first.
struct Shown {
  using Answer = tl::expected<std::shared_ptr<const predict::Overview>, Problem>;
  struct Sheet {
    QString name;
    bool active = false;
    Answer answer;
  };
  Answer ink;
  std::vector<Sheet> sheets;
  predict::OverviewQuestion question;

  /// The active sheet's answer, or the ink's when nothing is pencilled on it.
  [[nodiscard]] const Answer& now() const {
    return !sheets.empty() && sheets.front().active ? sheets.front().answer : ink;
  }
  [[nodiscard]] bool pencilled() const { return !sheets.empty() && sheets.front().active; }
};

} // namespace vinegar::app
