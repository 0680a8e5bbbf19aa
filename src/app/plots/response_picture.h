#pragma once

#include "ask/answers.h"
#include "plots/curve_plot.h"
#include "predict/rest/prediction.h"

namespace vinegar::app {

struct ResponseOptions {
  QString span;            ///< "jack to speaker", for the axis
  bool phase = false;      ///< a pane for it under the level
  bool notes = true;       ///< the guitar's notes along the axis
  bool difference = false; ///< a pane for what every other side is over the ink
};

/// What is asked for a picture of a response: 300 frequencies from 10 Hz to 100 kHz.
predict::ResponseQuestion responseOver(const QString& from, const QString& to);

/// Level, and phase if wished, over frequency, every side that has an answer.
CurvePlot::Picture responsePicture(const Answers<predict::Response>& answers, const ResponseOptions& options);

} // namespace vinegar::app
