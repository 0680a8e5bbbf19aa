#pragma once

#include <QWidget>
#include <functional>
#include <qcustomplot.h>

namespace vinegar::app {

class FigureTable;

/// Curves over a common axis in one pane or two, one above the other, with a cursor through both and what it meets
/// written above. Ink is solid; pencil dashed, on a layer of its own with marks and the signal's way, so that turning a
/// value draws it alone. The one plot there is: a page makes a Picture of its answer, and the plot knows no page.
class CurvePlot : public QWidget {
  Q_OBJECT
public:
  enum class Look {
    ink,
    inkThin,
    pencil,     ///< the active sheet
    pencilThin, ///< the active sheet, what is less looked at
    ground,     ///< what answers are drawn upon: of neither
    other,      ///< other sheets
    another,
  };
  struct Curve {
    QString name;
    std::vector<double> x, y; ///< x rising
    Look look = Look::ink;
    int pane = 0;
    QString label = {}; ///< written on it; empty for none
    double labelAt = 1; ///< where along it, as a share
    bool operator==(const Curve&) const = default;
  };
  /// A way over the plane that may turn back, as a load line's ellipse.
  struct Path {
    QString name;
    std::vector<double> x, y;
    Look look = Look::ink;
    bool danger = false, signal = false; ///< in those colours; else the look's
    QString label = {};                  ///< written on it
    double labelAt = 1;                  ///< where along it, as a share of its points
    bool hatched = false;                ///< closed, and its inside marked by lines
    bool cloud = false;                  ///< its points alone: ink as specks, pencil as rings
    bool operator==(const Path&) const = default;
  };
  /// A point with a name; `movable`: it is dragged by the mouse or moved by the arrow keys, see `handleMoved`.
  struct Dot {
    double x = 0, y = 0;
    QString word;
    Look look = Look::ink;
    bool movable = false;
    bool below = false, bare = false; ///< the word below it; the word alone
    bool operator==(const Dot&) const = default;
  };
  struct Mark { ///< a line across a pane with a word
    double at = 0;
    QString word;
    bool upright = false, danger = false;
    int pane = 0;
    bool operator==(const Mark&) const = default;
  };
  struct Note { ///< a word at the foot of the first pane
    double at = 0;
    QString word;
    bool operator==(const Note&) const = default;
  };
  struct Pane {
    enum class Scale {
      fromZero, ///< zero is always shown
      tight,
      decibels, ///< whole fives, 20 to 80 dB high
      degrees,
    };
    QString label, unit;
    Scale scale = Scale::fromZero;
    using Ticks = std::vector<std::pair<double, QString>>;
    std::optional<std::pair<double, double>> range = {}; ///< of the axis at first; else what the curves need
    Ticks xTicks = {}, yTicks = {}; ///< named places in place of numbers, lines of a name parted by \n
    bool operator==(const Pane&) const = default;
  };
  struct Picture {
    QString title; ///< another title is another picture: its axes are set anew
    QString xLabel, xUnit;
    std::vector<Pane> panes; ///< one or two
    std::vector<Curve> curves;
    std::vector<Path> paths; ///< in the first pane
    std::vector<Dot> dots;   ///< likewise
    std::vector<Mark> marks;
    std::vector<Note> notes;
    bool hertz = false;             ///< the common axis is frequency: logarithmic, 20 Hz to 20 kHz at first
    bool stay = false;              ///< axes stay where they are while curves change; else they follow until moved
    bool silent = false;            ///< no cursor and no readout: the curves are a ground, not an answer
    std::optional<QRectF> axes;     ///< of the first pane at first; else what the curves need
    bool againstInk = false;        ///< the readout tells each curve's difference to the ink
    std::optional<double> cursorAt; ///< where it starts; in the middle if not said
    std::function<std::string()> figures; ///< as CSV; empty: curve, x, value
  };

  explicit CurvePlot(QWidget* parent = nullptr);

  /// Some milliseconds; under one when only pencil curves are others than before.
  void show(Picture picture);
  /// Nothing, as at first.
  void clear();
  void fit();
  void restyle();
  [[nodiscard]] const Picture& picture() const { return picture_; }
  [[nodiscard]] QString readout() const;
  void setCursor(double x);
  [[nodiscard]] double cursor() const { return cursor_; }
  /// The row above the plot, for the page's own controls; the readout keeps its right end.
  void addTool(QWidget* tool);
  /// A Fit button as a tool.
  void addFit();
  [[nodiscard]] QCustomPlot* plot() { return plot_; }
  /// SVG, PDF, PNG or CSV by the file's ending. Empty on success, else why not.
  QString exportTo(const QString& path);
  /// Picture and figures both.
  void copyToClipboard();
  [[nodiscard]] std::string figures() const;

  /// The value of a curve at x, by interpolation, on a logarithmic axis in the logarithm; NaN outside.
  static double valueAt(const Curve& curve, double x, bool logarithmic);

Q_SIGNALS:
  /// A movable dot is taken elsewhere, by its number; `done`: it was let go there.
  void handleMoved(int dot, double x, double y, bool done);
  /// Pressed and let go at one place.
  void placeClicked(double x, double y);

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void build();
  void setPanes(std::size_t count);
  void setAxes();
  void addPieces(bool live);
  void addLabels(bool live);
  /// Names of curves go along them to where none lies on another; one that has no place is left out.
  void placeNames();
  void addMarks();
  void fillGraphs();
  void fillGraph(std::size_t curve);
  void placeCursor();
  void showReadout();
  void replot();
  [[nodiscard]] QCPAxisRect* rectOf(int pane) const;
  void addPaths(bool live);
  void addDots(bool live);
  /// The movable dot within reach of a place on screen, or -1.
  [[nodiscard]] int handleAt(const QPointF& place) const;
  bool dragHandle(QMouseEvent* event);
  [[nodiscard]] QCPItemText* addText(QCPAxisRect* rect, const QString& word, const QColor& colour);

  /// What the picture was drawn on when the ground under the pencil was drawn last.
  struct Ground {
    QList<QCPRange> ranges;
    QSize size;
    bool operator==(const Ground&) const = default;
  };
  [[nodiscard]] Ground ground() const;

  QCustomPlot* plot_;
  QHBoxLayout* tools_;
  FigureTable* readout_;
  QCPLayer* live_; ///< pencil, what follows it, and cursor
  QCPAxisRect* second_ = nullptr;
  std::vector<QCPItemLine*> cursors_;
  /// Used again and again: a piece that is added or removed has all layers drawn anew.
  template <class Piece> struct Pool {
    std::vector<Piece*> all;
    std::size_t used = 0;
    template <class Make> Piece* next(Make make) {
      if (used == all.size()) all.push_back(make());
      auto* piece = all[used++];
      piece->setVisible(true);
      return piece;
    }
  };
  struct Pieces {
    Pool<QCPCurve> paths;
    Pool<QCPItemTracer> dots;
    Pool<QCPItemText> texts;
    Pool<QCPItemLine> lines;
  };
  Pieces under_, above_;      ///< on the ground, and on the live layer
  Pieces* filling_ = &under_; ///< where what is added belongs
  Picture picture_;
  struct Name {
    QCPItemText* word;
    std::size_t curve;
    bool live;
  };
  std::vector<Name> names_;
  std::optional<Ground> drawn_; ///< nothing: all must be drawn
  int held_ = -1;               ///< the dot that is dragged
  QPointF pressed_;
  QPointF keyedFrom_, keyed_; ///< where the dot stands, and where the arrow keys have taken it
  double cursor_ = 0;
  bool cursorSet_ = false, moved_ = false, fitted_ = false;
  QRect ticked_; ///< the plot's area that the ticks were laid out for
};

} // namespace vinegar::app
