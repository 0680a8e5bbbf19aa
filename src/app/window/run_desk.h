#pragma once

#include "ask/findings_desk.h"
#include "document/selection.h"
#include "document/settings.h"
#include "run/run_files.h"

namespace vinegar::app {

class RunView;

/// Keeps the run in step with the document: its drawing, its readings, and what of it goes on paper.
class RunDesk {
public:
  RunDesk(RunView& view, Session& session, Asker& asker, FindingsDesk& findings, Selection& selection,
          const Settings& settings);

  /// Another document: its first drawing shows one end of it.
  void startAfresh();
  /// Draws where the shape, the marks on it or the form are others than drawn. `arranging`: with room between sections;
  /// `supplyEnd`: the end that a first drawing shows. Whether it drew.
  bool follow(bool arranging, bool supplyEnd);
  /// The same document in other symbols.
  void redraw() { drawing_ = nullptr; }
  void arrange(bool arranging);
  void showReadings();
  [[nodiscard]] PaperRun onPaper() const;

private:
  RunView& view_;
  Session& session_;
  Asker& asker_;
  FindingsDesk& findings_;
  Selection& selection_;
  const Settings& settings_;
  bool fresh_ = true;                 ///< the next drawing is of another document
  amp::Design drawn_;                 ///< the shape of what the run shows
  std::vector<amp::Mark> drawnMarks_; ///< those on the shape, which show in it as put in or taken out
  std::shared_ptr<const amp::Drawing> drawing_;
};

} // namespace vinegar::app
