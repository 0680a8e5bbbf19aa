#pragma once

#include "pages/supply/supply_view.h"
#include "predict/supply/supply_budget.h"

class QTextBrowser;
class QUrl;

namespace vinegar::app {

/// A view that is one page of text.
class TextView : public SupplyView {
  Q_OBJECT
public:
  TextView(Page& page, const QString& fileName, const char* name, const QString& accessible,
           const QString& withoutMains);
  [[nodiscard]] PageFrame::Exports exports() override;

protected:
  void clear() override;
  [[nodiscard]] QTextBrowser& text() const { return *text_; }

private:
  QTextBrowser* text_;
  QString fileName_;
};

/// Windings, heaters, heater to cathode with a divider to lift them where one is wanted, the mains at its ends.
class BudgetsView : public TextView {
  Q_OBJECT
public:
  explicit BudgetsView(Page& page);
  void restyle() override { draw(); }

protected:
  void ask(const Answers<predict::Idle>& idle) override;
  void clear() override;

private:
  void draw();
  Asking<predict::BudgetQuestion, predict::SupplyBudget> asking_;
  Answers<predict::SupplyBudget> answers_;
};

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
  void clear() override { draw(); }

private:
  void draw();
  void open(const QUrl& link);
  void showSafety();
};

} // namespace vinegar::app
