#pragma once

#include "run/run_painter.h"

#include <QWidget>
#include <memory>

namespace vinegar::app {

/// One section of the library, as it is shipped, as large as there is room for.
class SectionPicture : public QWidget {
  Q_OBJECT
public:
  explicit SectionPicture(QWidget* parent = nullptr);
  /// Null: nothing.
  void show(const amp::SectionTemplate* section, const amp::Library& library, ResistorStyle style);
  [[nodiscard]] QSize sizeHint() const override { return {300, 90}; }

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  std::unique_ptr<RunPainter> painter_;
};

} // namespace vinegar::app
