#pragma once

#include "ask/findings_desk.h"
#include "pages/kit/page.h"
#include "predict/feel/feel.h"
#include "predict/levels/clip_order.h"
#include "predict/overview/vitals.h"

#include <QWidget>

class QPushButton;

namespace vinegar::app {

class FigureTable;

/// The strip along the bottom: the amplifier's main numbers, ink and pencil side by side.
class Vitals : public QWidget {
  Q_OBJECT
public:
  Vitals(Asker& asker, const FindingsDesk& findings, const QString& dataFolder, QWidget* parent = nullptr);
  /// Nothing is known yet.
  void clear();

Q_SIGNALS:
  void topicWanted(vinegar::app::PageFacts::Topic topic);
  void partWanted(const QString& part);

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  struct Cell {
    QPushButton* button;
    FigureTable* values;
    QString name, tip, ink = {}, pencil = {};
    int width = 0, needed = 0; ///< px; what it has, and what it could do with
  };
  Cell& cell(int index) { return cells_[static_cast<std::size_t>(index)]; }
  void draw(const Answers<predict::Vitals>& answers);
  void showClipping(const Answers<predict::Clipping>& answers);
  void showSag(const Answers<predict::Feel>& answers);
  void showFindings();
  void add(const QString& name, const QString& tip);
  void set(int index, const QString& ink, const QString& pencil);
  static void write(Cell& cell);
  static QString inkOf(const Cell& cell, bool unitOnce);
  static int needOf(const Cell& cell, bool unitOnce);
  bool share(); ///< whether any cell came to have another width

  Asker& asker_;
  const FindingsDesk& findings_;
  Asking<predict::VitalsQuestion, predict::Vitals> asking_;
  Asking<predict::ClippingQuestion, predict::Clipping> clipping_;
  Asking<predict::BurstQuestion, predict::Feel> sag_;
  std::vector<Cell> cells_;
  bool byNeed_ = false; ///< the cells have the room that they need, not that of a rest without pencil
  QString hottest_, finding_, reservoir_;
};

} // namespace vinegar::app
