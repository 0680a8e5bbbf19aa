#pragma once

#include "amp/design/design.h"

#include <QWidget>
#include <vector>

class QGridLayout;

namespace vinegar::app {

class Knob;
class Session;

/// The knobs of the design, as many side by side as have room to be turned, in rows of equal length.
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
  int columns_ = 0;
};

} // namespace vinegar::app
