#pragma once

#include "pages/supply/text_view.h"

class QUrl;

namespace vinegar::app {

/// What is wrong, where, and what to do about it; the safety rules are a click away.
class FindingsView : public TextView {
  Q_OBJECT
public:
  explicit FindingsView(Page& page);
  /// Also of a design without mains or answer: what could not be checked is said.
  void follow(const Answers<predict::Idle>&) override { draw(); }
  void restyle() override { draw(); }

protected:
  void ask(const Answers<predict::Idle>&) override { draw(); }
  void draw() override;
  void clear() override { draw(); }

private:
  void open(const QUrl& link);
  void showSafety();
};

} // namespace vinegar::app
