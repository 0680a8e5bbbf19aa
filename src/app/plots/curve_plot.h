#pragma once

#include <QLabel>
#include <QWidget>
#include <qcustomplot.h>

namespace vinegar::app {

class FigureTable;

/// Curves over a common axis in one pane or two, one above the other. Ink is solid, pencil dashed. The axes follow the
/// curves until the builder moves them; `fit` lets them follow again.
class CurvePlot : public QWidget {
  Q_OBJECT
public:
  enum class Look { ink, inkThin, pencil, pencilThin };
  struct Curve {
    QString name;
    std::vector<double> x, y;
    Look look = Look::ink;
    int pane = 0;
    QString label = {}; ///< written on it; empty for none
    double labelAt = 1; ///< where along it, as a share
  };
  struct Mark { ///< a line across a pane with a word
    double at = 0;
    QString word;
    bool upright = false, danger = false;
    int pane = 0;
  };
  struct Picture {
    QString title, xLabel;
    QStringList paneLabels; ///< one or two
    std::vector<Curve> curves;
    std::vector<Mark> marks;
    QString xUnit;
    QStringList yUnits;   ///< by pane, for the readout
    bool fromZero = true; ///< whether the first pane shows zero
  };

  explicit CurvePlot(QWidget* parent = nullptr);

  void show(Picture picture);
  /// Shows what is wrong, or what is being waited for, in place of curves.
  void say(const QString& message, bool danger);
  void fit();
  void restyle();
  [[nodiscard]] const Picture& picture() const { return picture_; }
  [[nodiscard]] QString readout() const;
  void setCursor(double x);
  void addTool(QWidget* tool);
  QString exportTo(const QString& path);
  void copyToClipboard();
  [[nodiscard]] std::string figures() const;

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void setPanes(int count);
  void fill();
  void showReadout();

  QCustomPlot* plot_;
  QHBoxLayout* tools_;
  FigureTable* readout_;
  QLabel* message_;
  QCPAxisRect* second_ = nullptr;
  std::vector<QCPItemLine*> cursors_;
  std::vector<QCPAbstractItem*> items_;
  Picture picture_;
  double cursor_ = 0;
  bool cursorSet_ = false, moved_ = false;
};

} // namespace vinegar::app
