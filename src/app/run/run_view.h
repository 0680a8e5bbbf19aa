#pragma once

#include "run/run_pages.h"

#include <QAbstractScrollArea>
#include <memory>

namespace vinegar::app {

/// The schematic of the whole amplifier: scrolls, zooms with Ctrl+wheel or +/-, selects by click and by arrow keys.
class RunView : public QAbstractScrollArea {
  Q_OBJECT
public:
  explicit RunView(QWidget* parent = nullptr);

  void setRun(RunContent content, ResistorStyle style);
  void setReadings(std::map<std::string, InkAndPencil> labels, std::map<std::string, InkAndPencil> volts,
                   std::set<std::string> stressed);
  void select(const std::string& part);
  [[nodiscard]] const std::string& selected() const { return selected_; }
  void zoomTo(double zoom);
  [[nodiscard]] double zoom() const { return zoom_; }
  /// Where a part is on the viewport, for those who point at it.
  [[nodiscard]] QPoint partPosition(const std::string& part) const;
  /// Height at which the whole run is seen without scrolling up and down.
  [[nodiscard]] int fullHeight() const;
  /// Paints the run onto anything that can be painted on, scaled into `target`.
  void paintOnto(QPainter& painter, const QRectF& target) const;
  /// As run_pages.h says, in the colours of paper.
  bool paintPages(QPagedPaintDevice& device, const QString& title, Pages pages) const;
  [[nodiscard]] QSizeF drawingSize() const;

Q_SIGNALS:
  void partSelected(const QString& name);
  /// A letter or figure typed here: the start of a part's name.
  void nameTyped(const QString& text);

protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void scrollContentsBy(int dx, int dy) override;

private:
  [[nodiscard]] double unit() const;
  [[nodiscard]] QPointF toGrid(QPointF viewportPoint) const;
  [[nodiscard]] QPointF origin() const;
  void updateScrollBars();
  void showSelected();
  void choose(const std::string& part);

  std::unique_ptr<RunPainter> painter_;
  std::string selected_;
  double zoom_ = 1;
  QPoint dragFrom_;
  bool dragging_ = false;
};

} // namespace vinegar::app
