// Room: colours, type and the application's style sheet. Vellum is light, Lamp is dark.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

namespace vinegar::app {

struct Theme {
  QString name;
  QColor ground, panel, hairline, ink, quiet, pencil;
  QColor pencilLine; ///< brighter than pencil text, which needs the contrast of text
  QColor signal, danger;
  QColor footer, footerText, footerQuiet, footerPencil; ///< the vitals strip
};

const Theme& vellum();
const Theme& lamp();

/// The theme in force. Widgets that paint themselves ask at every paint.
const Theme& theme();
void applyTheme(const QString& name);

/// While it lives, what paints itself paints for white paper.
class OnPaper {
public:
  OnPaper();
  ~OnPaper();
  OnPaper(const OnPaper&) = delete;
  OnPaper& operator=(const OnPaper&) = delete;

private:
  const Theme* before_;
};

/// Loads the shipped faces; when they are missing the system's sans and fixed faces serve, and false is returned.
bool loadFonts(const QString& dataFolder);
QFont textFont(double points, QFont::Weight weight = QFont::Normal);
/// Fixed-width figures, for readings.
QFont figureFont(double points, QFont::Weight weight = QFont::Normal);

} // namespace vinegar::app
