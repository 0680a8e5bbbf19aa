#pragma once

#include "ask/asker.h"

#include <QWidget>

namespace vinegar::app {

class KeptBase;

/// A widget that asks: its questions sleep while it is hidden, so that what nobody sees costs nothing, and wake with
/// it.
class View : public QWidget {
  Q_OBJECT
public:
  explicit View(QWidget* parent = nullptr) : QWidget(parent) {}

protected:
  friend class KeptBase;
  [[nodiscard]] virtual Asker& asker() const = 0;
  /// A member of the derived class, from its constructor.
  virtual void own(AskingBase& asking);
  /// Shows what was answered; called whenever that is another.
  virtual void draw() {}
  /// Nothing is asked, and nothing of what was answered is kept.
  void restAll();
  [[nodiscard]] const std::vector<AskingBase*>& askings() const { return askings_; }
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

private:
  std::vector<AskingBase*> askings_;
  std::vector<KeptBase*> kept_;
};

} // namespace vinegar::app
