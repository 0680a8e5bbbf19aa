#pragma once

#include "run/run_painter.h"

#include <QWidget>
#include <memory>

namespace vinegar::app {

/// A section of the library or a whole amplifier, as large as there is room for.
class RunPicture : public QWidget {
  Q_OBJECT
public:
  explicit RunPicture(QWidget* parent = nullptr);
  /// Nothing: an empty place.
  void show(std::optional<RunContent> content, ResistorStyle style = ResistorStyle::box);
  [[nodiscard]] bool isEmpty() const { return !painter_; }
  [[nodiscard]] QSize sizeHint() const override { return {300, 90}; }

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  std::unique_ptr<RunPainter> painter_;
};

} // namespace vinegar::app
