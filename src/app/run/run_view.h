#pragma once

#include "run/arranging.h"
#include "run/run_painter.h"

#include <QAbstractScrollArea>
#include <QPixmap>
#include <memory>

namespace vinegar::app {

struct Theme;

/// The schematic of the whole amplifier: scrolls, zooms with Ctrl+wheel or +/-, selects by click and by arrow keys.
class RunView : public QAbstractScrollArea {
  Q_OBJECT
public:
  explicit RunView(QWidget* parent = nullptr);

  void setRun(RunContent content, ResistorStyle style);
  void setReadings(std::map<std::string, InkAndPencil> labels, std::map<std::string, InkAndPencil> volts,
                   std::set<std::string> stressed);
  void select(const std::string& part);
  /// In its arranging form, with that piece in hand; nothing: as ever. Right after setRun, which forgets it.
  void arrange(std::optional<Arranging> arranging);
  [[nodiscard]] bool isArranging() const { return arranging_.has_value(); }
  void take(const Piece& piece);
  /// Where a piece is on the viewport, for those who point at it.
  [[nodiscard]] QPoint piecePosition(const Piece& piece) const;
  /// Brings one end of the run on screen: the supply's, or the one where the signal enters.
  void showEnd(bool supply);
  [[nodiscard]] const std::string& selected() const { return selected_; }
  void zoomTo(double zoom);
  [[nodiscard]] double zoom() const { return zoom_; }
  /// The whole amplifier as wide as the view, or back to where the builder was.
  void showWhole(bool whole);
  [[nodiscard]] bool isWhole() const { return whole_.has_value(); }
  /// Where a part is on the viewport, for those who point at it.
  [[nodiscard]] QPoint partPosition(const std::string& part) const;
  /// Height at which the whole run is seen without scrolling up and down.
  [[nodiscard]] int fullHeight() const;
  [[nodiscard]] QSizeF drawingSize() const;

Q_SIGNALS:
  void partSelected(const QString& name);
  /// A letter typed here: the start of a part's name.
  void nameTyped(const QString& text);
  /// A digit, point or comma, with a part selected: the start of its value.
  void valueTyped(const QString& text);
  void pieceTaken(const Piece& piece);
  void actWanted(PieceAct act);

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
  void choosePiece(const Piece& piece);
  void bring(const QRectF& area);
  bool arrangingKey(QKeyEvent* event);

  /// What stays while a value is turned, painted once per look at it.
  [[nodiscard]] const QPixmap& stillPicture();

  std::unique_ptr<RunPainter> painter_;
  struct Look {
    QPointF origin;
    QSize size;
    double unit, ratio;
    std::string selected;
    bool focused;
    const Theme* theme;
    bool operator==(const Look&) const = default;
  };
  std::optional<Arranging> arranging_;
  Piece piece_;
  std::optional<Look> look_;
  QPixmap still_;
  std::string selected_;
  double zoom_ = 1;
  struct Seen {
    double zoom;
    QPoint scrolled;
  };
  std::optional<Seen> whole_; ///< while the whole is shown: what was seen before
  bool stayAtSupply_ = false; ///< until the builder looks elsewhere
  QPoint dragFrom_;
  bool dragging_ = false;
};

} // namespace vinegar::app
