// The run on paper: printed, as PDF, scalable picture or picture.
#pragma once

#include "run/run_readings.h"
#include "run/run_sheets.h"

#include <QPageLayout>
#include <QPagedPaintDevice>
#include <memory>

namespace vinegar::app {

/// The amplifier's run of Form::paper with what is written on it.
struct PaperRun {
  RunContent content;
  ResistorStyle style = ResistorStyle::box;
  SheetWords words;
};
PaperRun paperRun(const Session& session, const Answers<predict::Idle>& idle,
                  const std::vector<audit::Finding>& findings, const amp::Library& library, ResistorStyle style);

/// A run folded for one kind of paper, ready to be painted.
class FoldedRun {
public:
  FoldedRun(const PaperRun& run, QPageSize::PageSizeId page, bool volts);
  [[nodiscard]] const RunSheets& sheets() const { return *sheets_; }
  /// Of the whole paper, landscape, mm.
  [[nodiscard]] QSizeF paper() const;
  /// One sheet with its margins.
  [[nodiscard]] QImage picture(int sheet, double dotsPerMillimetre) const;
  /// Writes by the file's ending: pdf, svg or png, the latter two with the sheets below each other. Empty on success,
  /// else why not.
  [[nodiscard]] QString save(const QString& path) const;
  /// False when the device cannot be painted on. Its page is set before.
  bool print(QPagedPaintDevice& device) const;
  [[nodiscard]] QPageLayout layout() const;

private:
  void paint(QPainter& painter, int sheet, double dotsPerMillimetre) const;

  QPageSize::PageSizeId page_;
  SheetWords words_;
  std::unique_ptr<RunPainter> painter_;
  std::unique_ptr<RunSheets> sheets_;
};

/// What the run is folded for, by name.
const std::vector<std::pair<QString, QPageSize::PageSizeId>>& papers();
/// A4, or Letter where that is usual.
QPageSize::PageSizeId usualPaper();

} // namespace vinegar::app
