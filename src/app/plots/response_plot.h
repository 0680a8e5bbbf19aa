#pragma once

#include "predict/prediction.h"

#include <QLabel>
#include <QWidget>
#include <qcustomplot.h>

namespace vinegar::app {

class FigureTable;

/// Level, and phase if wished, against frequency. The first curve is ink, solid; the others are pencil: dashed, dotted,
/// dash-dotted. The axes stay where they are while curves change; `fit` sets them anew.
class ResponsePlot : public QWidget {
  Q_OBJECT
public:
  struct Curve {
    QString name;
    predict::Response response;
    bool ink = false;
    bool active = false;
  };

  explicit ResponsePlot(QWidget* parent = nullptr);

  void setCurves(std::vector<Curve> curves);
  /// Shows what is wrong in place of curves.
  void setProblem(const QString& message);
  void setPhaseShown(bool shown);
  void setNotesShown(bool shown);
  void setLevelLabel(const QString& label);
  void fit();
  void restyle();

  [[nodiscard]] const std::vector<Curve>& curves() const { return curves_; }
  [[nodiscard]] QString readout() const;
  /// The row above the plot, for the page's own controls; the readout keeps its right end.
  void addTool(QWidget* tool);
  [[nodiscard]] QCustomPlot* plot() { return plot_; }
  void setCursor(double hertz);
  [[nodiscard]] double cursor() const { return cursorHertz_; }

  /// SVG, PDF, PNG or CSV by the file's ending. Empty on success, else why not.
  QString exportTo(const QString& path);
  void copyToClipboard();

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void showReadout();
  void placeNotes();
  void fillGraphs();
  [[nodiscard]] QPen penFor(std::size_t index) const;
  [[nodiscard]] std::string figures() const;

  QCustomPlot* plot_;
  QHBoxLayout* tools_;
  QCPAxisRect* phaseRect_ = nullptr;
  FigureTable* readout_;
  QLabel* problem_;
  QCPItemLine* cursorLine_ = nullptr;
  QCPItemLine* phaseCursorLine_ = nullptr;
  std::vector<QCPAbstractItem*> notes_;
  std::vector<Curve> curves_;
  double cursorHertz_ = 1000;
  bool fitted_ = false, notesShown_ = true;
};

} // namespace vinegar::app
