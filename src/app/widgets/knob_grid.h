#pragma once

#include "amp/design/design.h"

#include <QWidget>
#include <vector>

class QGridLayout;
class QPushButton;

namespace vinegar::app {

class Knob;
class Session;

/// The knobs of the design in a row, as many as have room to be turned; the others behind a button.
class KnobGrid : public QWidget {
  Q_OBJECT
public:
  enum class Which {
    played,   ///< the amplifier's own
    ofSupply, ///< mains, standby and hum balance; hidden where there are none
  };
  KnobGrid(Session& session, Which which, QWidget* parent = nullptr);
  /// Follows the document.
  void refresh();

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  void build(const std::vector<amp::ResolvedPart>& controls);
  void place();

  Session& session_;
  Which which_;
  QGridLayout* layout_;
  std::vector<QWidget*> cells_;
  std::vector<Knob*> knobs_;
  std::vector<std::string> names_;
  QPushButton* more_;
  int columns_ = 0;
  bool open_ = false;
};

} // namespace vinegar::app
