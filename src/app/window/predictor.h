#pragma once

#include "amp/design.h"
#include "window/latest_wins.h"
#include "window/shown.h"

namespace vinegar::app {

/// Most pencil sheets that are shown at once.
constexpr std::size_t mostSheets = 4;

/// Asks for everything the window shows of a document, in the background, and says when it is there. What one answer
/// left is kept for the next: a builder changes one value at a time.
class Predictor : public QObject {
  Q_OBJECT
public:
  explicit Predictor(const amp::Library& library, QObject* parent = nullptr);

  void ask(const amp::Document& document, const std::string& from, const std::string& to, const std::string& part);
  [[nodiscard]] bool idle() const { return work_.idle(); }

Q_SIGNALS:
  void answered(const vinegar::app::Shown& shown);

private:
  struct Memory;
  const amp::Library& library_;
  std::shared_ptr<Memory> memory_;
  LatestWins work_;
};

} // namespace vinegar::app
