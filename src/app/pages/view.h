#pragma once

#include "ask/asker.h"

#include <QWidget>

namespace vinegar::app {

/// A widget that asks: its questions sleep while it is hidden, so that what nobody sees costs nothing, and wake with
/// it.
class View : public QWidget {
  Q_OBJECT
public:
  explicit View(QWidget* parent = nullptr) : QWidget(parent) {}

protected:
  /// A member of the derived class, from its constructor.
  void own(AskingBase& asking);
  [[nodiscard]] const std::vector<AskingBase*>& askings() const { return askings_; }
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

private:
  std::vector<AskingBase*> askings_;
};

} // namespace vinegar::app
