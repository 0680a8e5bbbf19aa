// What lies over a plot's curves: paths, dots, names, marks.
#include "plots/curve_graph.h"
#include "plots/curve_looks.h"
#include "theme/theme.h"

#include <algorithm>
#include <cmath>

namespace vinegar::app {
namespace {

constexpr double roomy = 0.84; ///< of the axis at first: from there on a word stands left of its dot

constexpr int veil = 185; ///< of 255: what is under a word shows through so much less

/// A word that is not cut off by the edge of its plot: it moves inward, if what it names is inside. Lines under it are
/// dimmed.
class Word : public QCPItemText {
public:
  using QCPItemText::QCPItemText;

protected:
  void draw(QCPPainter* painter) override {
    const QRectF room = clipRect();
    const QPointF anchor = position->pixelPosition();
    QRectF own(QPointF(0, 0), QFontMetricsF(mFont).size(0, mText));
    own = own.marginsAdded(mPadding);
    own.moveTo(anchor);
    own.translate(mPositionAlignment & Qt::AlignHCenter ? -own.width() / 2
                  : mPositionAlignment & Qt::AlignRight ? -own.width()
                                                        : 0,
                  mPositionAlignment & Qt::AlignVCenter  ? -own.height() / 2
                  : mPositionAlignment & Qt::AlignBottom ? -own.height()
                                                         : 0);
    const auto inward = [](double low, double high, double from, double to) {
      return std::max(from - low, std::min(0.0, to - high));
    };
    painter->save();
    if (room.contains(anchor))
      painter->translate(inward(own.left(), own.right(), room.left(), room.right()),
                         inward(own.top(), own.bottom(), room.top(), room.bottom()));
    auto ground = theme().ground;
    ground.setAlpha(veil);
    if (!mText.isEmpty()) painter->fillRect(own.marginsRemoved(mPadding), ground);
    QCPItemText::draw(painter);
    painter->restore();
  }
};

} // namespace

bool isPencil(CurvePlot::Look look) {
  using Look = CurvePlot::Look;
  return look != Look::ink && look != Look::inkThin && look != Look::ground;
}

QPen penFor(CurvePlot::Look look) {
  switch (look) {
  case CurvePlot::Look::ink:
    return {theme().ink, 2};
  case CurvePlot::Look::inkThin:
    return {theme().ink, 1.1};
  case CurvePlot::Look::ground:
    return {theme().quiet, 0.8};
  case CurvePlot::Look::pencil:
    return {theme().pencilLine, 2.2, Qt::DashLine};
  case CurvePlot::Look::pencilThin:
    return {theme().pencilLine, 1.3, Qt::DashLine};
  case CurvePlot::Look::other:
    return {theme().pencilLine, 1.6, Qt::DotLine};
  case CurvePlot::Look::another:
    break;
  }
  return {theme().pencilLine, 1.6, Qt::DashDotLine};
}

QString markFor(CurvePlot::Look look) {
  switch (look) {
  case CurvePlot::Look::ink:
  case CurvePlot::Look::inkThin:
  case CurvePlot::Look::ground:
    return QStringLiteral("\u2014");
  case CurvePlot::Look::pencil:
  case CurvePlot::Look::pencilThin:
    return QStringLiteral("- -");
  case CurvePlot::Look::other:
    return QStringLiteral("\u00b7\u00b7\u00b7");
  case CurvePlot::Look::another:
    break;
  }
  return QStringLiteral("-\u00b7-");
}

QCPItemText* CurvePlot::addText(QCPAxisRect* rect, const QString& word, const QColor& colour) {
  auto* label = filling_->texts.next([this] { return new Word(plot_); });
  label->position->setType(QCPItemPosition::ptPlotCoords);
  label->setPadding({});
  label->setBrush(Qt::NoBrush);
  label->position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
  label->position->setAxisRect(rect);
  label->setClipAxisRect(rect);
  label->setText(word);
  label->setFont(textFont(8));
  label->setColor(colour);
  return label;
}

void CurvePlot::addPaths(bool live) {
  for (const auto& path : picture_.paths) {
    if (isLive(path) != live) continue;
    auto* curve = filling_->paths.next([this] { return new PathCurve(plot_->xAxis, plot_->yAxis); });
    auto pen = penFor(path.look);
    if (path.danger) pen = QPen(theme().danger, 1.2, Qt::DashLine);
    if (path.signal) pen = QPen(theme().signal, 2);
    curve->setPen(path.hatched ? QPen(Qt::NoPen) : pen);
    curve->setLineStyle(path.cloud ? QCPCurve::lsNone : QCPCurve::lsLine);
    const auto speck = isPencil(path.look)
                           ? QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(theme().pencilLine, 1), Qt::NoBrush, 5)
                           : QCPScatterStyle(QCPScatterStyle::ssDisc, theme().quiet, 3);
    curve->setScatterStyle(path.cloud ? speck : QCPScatterStyle());
    curve->setBrush(path.hatched ? QBrush(theme().hairline, Qt::BDiagPattern) : QBrush());
    curve->setData(QVector<double>(path.x.begin(), path.x.end()), QVector<double>(path.y.begin(), path.y.end()));
    if (path.label.isEmpty() || path.x.empty()) continue;
    auto* label = addText(rectOf(0), path.label, pen.color());
    const auto at =
        std::min(path.x.size() - 1, static_cast<std::size_t>(path.labelAt * static_cast<double>(path.x.size())));
    label->position->setCoords(path.x[at], path.y[at]);
    label->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    label->setPadding(QMargins(3, 0, 0, 1));
  }
}

void CurvePlot::addDots(bool live) {
  for (const auto& dot : picture_.dots) {
    if (isLive(dot) != live) continue;
    const QColor colour = isPencil(dot.look) ? theme().pencil : theme().ink;
    if (!dot.bare) {
      auto* tracer = filling_->dots.next([this] { return new QCPItemTracer(plot_); });
      tracer->position->setAxes(plot_->xAxis, plot_->yAxis);
      tracer->position->setCoords(dot.x, dot.y);
      tracer->setStyle(QCPItemTracer::tsCircle);
      tracer->setSize(dot.movable ? 12 : 8);
      tracer->setPen(QPen(colour, 2));
      tracer->setBrush(isPencil(dot.look) ? theme().ground : colour);
    }
    if (dot.word.isEmpty()) continue;
    auto* label = addText(rectOf(0), dot.word, colour);
    label->setFont(textFont(9, QFont::DemiBold));
    label->position->setCoords(dot.x, dot.y);
    const double across = picture_.hertz  ? std::log(dot.x / 20) / std::log(1000.0)
                          : picture_.axes ? (dot.x - picture_.axes->left()) / picture_.axes->width()
                                          : 0;
    const bool left = across > roomy; // there is no room right of it
    label->setPositionAlignment((dot.bare ? Qt::AlignHCenter
                                 : left   ? Qt::AlignRight
                                          : Qt::AlignLeft) |
                                (dot.below ? Qt::AlignTop : Qt::AlignBottom));
    label->setPadding(dot.bare ? QMargins(0, 0, 0, 2) : QMargins(left ? 0 : 9, 3, left ? 9 : 0, 5));
  }
}

/// Everything but the graphs: what is live, or what is not.
void CurvePlot::addPieces(bool live) {
  filling_ = live ? &above_ : &under_;
  filling_->paths.used = filling_->dots.used = filling_->texts.used = filling_->lines.used = 0;
  plot_->setCurrentLayer(live ? live_ : plot_->layer(QStringLiteral("main")));
  addPaths(live);
  addDots(live);
  addLabels(live);
  if (live) addMarks();
  plot_->setCurrentLayer(QStringLiteral("main"));
  const auto hideRest = [](const auto& pool) {
    for (std::size_t i = pool.used; i < pool.all.size(); ++i)
      pool.all[i]->setVisible(false);
  };
  hideRest(filling_->paths);
  hideRest(filling_->dots);
  hideRest(filling_->texts);
  hideRest(filling_->lines);
}

void CurvePlot::addLabels(bool live) {
  std::erase_if(names_, [&](const Name& name) { return name.live == live; });
  for (std::size_t c = 0; c < picture_.curves.size(); ++c) {
    const auto& curve = picture_.curves[c];
    if (isLive(curve) != live || curve.label.isEmpty() || curve.x.empty()) continue;
    auto* label = addText(rectOf(curve.pane), curve.label,
                          live                         ? theme().pencil
                          : curve.look == Look::ground ? theme().quiet
                                                       : theme().ink);
    label->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
    label->setBrush(theme().ground); // the line passes behind its name
    label->setPadding(QMargins(3, 0, 3, 0));
    names_.push_back({label, c, live});
  }
  placeNames();
}

void CurvePlot::placeNames() {
  constexpr double step = 0.06; // of the curve
  constexpr int steps = 8;      // either way
  std::vector<QRectF> taken;
  for (const auto& name : names_) {
    if (name.curve >= picture_.curves.size() || picture_.curves[name.curve].x.empty()) continue;
    const auto& curve = picture_.curves[name.curve];
    const double first = curve.x.front(), last = curve.x.back();
    auto* rect = rectOf(curve.pane);
    const auto room = QRectF(rect->rect());
    const QSizeF size = QFontMetricsF(name.word->font()).size(0, curve.label) + QSizeF(6, 0);
    const auto place = [&](double share) {
      const double at =
          picture_.hertz && first > 0 ? first * std::pow(last / first, share) : first + share * (last - first);
      return QPointF(at, valueAt(curve, std::min(at, last), picture_.hertz));
    };
    const auto onScreen = [&](const QPointF& coords) {
      const QPointF right(rect->axis(QCPAxis::atBottom)->coordToPixel(coords.x()),
                          rect->axis(QCPAxis::atLeft)->coordToPixel(coords.y()));
      return QRectF(right - QPointF(size.width(), size.height() / 2), size);
    };
    auto coords = place(curve.labelAt);
    bool found = !room.isValid(); // nothing is laid out yet
    for (int k = 0; k <= 2 * steps && !found; ++k) {
      const int away = (k + 1) / 2;
      const double share = curve.labelAt + (k % 2 ? -step : step) * away;
      if (share < 0 || share > 1) continue;
      const auto wanted = place(share);
      const auto words = onScreen(wanted);
      const bool inside = k == 0 || room.contains(words);
      if (!inside ||
          std::any_of(taken.begin(), taken.end(), [&](const auto& other) { return other.intersects(words); }))
        continue;
      coords = wanted;
      taken.push_back(words);
      found = true;
    }
    name.word->position->setCoords(coords);
    name.word->setVisible(found);
  }
}

void CurvePlot::addMarks() {
  const auto addLine = [&](QCPAxisRect* rect, const QPen& pen) {
    auto* line = filling_->lines.next([this] { return new QCPItemLine(plot_); });
    for (auto* position : {line->start, line->end}) {
      position->setAxes(rect->axis(QCPAxis::atBottom), rect->axis(QCPAxis::atLeft));
      position->setAxisRect(rect);
    }
    line->setClipAxisRect(rect);
    line->setPen(pen);
    return line;
  };
  for (const auto& mark : picture_.marks) {
    auto* rect = rectOf(mark.pane);
    const QColor colour = mark.danger ? theme().danger : theme().signal;
    auto* line = addLine(rect, QPen(colour, 1.2, mark.danger ? Qt::SolidLine : Qt::DotLine));
    auto* label = addText(rect, mark.word, colour);
    for (auto* position : {line->start, line->end, label->position}) {
      position->setTypeX(mark.upright ? QCPItemPosition::ptPlotCoords : QCPItemPosition::ptAxisRectRatio);
      position->setTypeY(mark.upright ? QCPItemPosition::ptAxisRectRatio : QCPItemPosition::ptPlotCoords);
    }
    line->start->setCoords(mark.upright ? mark.at : 0, mark.upright ? 0 : mark.at);
    line->end->setCoords(mark.upright ? mark.at : 1, mark.upright ? 1 : mark.at);
    label->position->setCoords(mark.upright ? mark.at : 0.995, mark.upright ? 0.02 : mark.at);
    label->setPositionAlignment(mark.upright ? Qt::AlignLeft | Qt::AlignTop : Qt::AlignRight | Qt::AlignBottom);
    label->setPadding(QMargins(4, 0, 0, 1));
  }
  for (const auto& note : picture_.notes) {
    auto* tick = addLine(rectOf(0), QPen(theme().signal, 1.5));
    auto* label = addText(rectOf(0), note.word, theme().signal);
    for (auto* position : {tick->start, tick->end, label->position}) {
      position->setTypeX(QCPItemPosition::ptPlotCoords);
      position->setTypeY(QCPItemPosition::ptAxisRectRatio);
    }
    tick->start->setCoords(note.at, 1);
    tick->end->setCoords(note.at, 0.955);
    label->position->setCoords(note.at, 0.95);
    label->setPositionAlignment(Qt::AlignHCenter | Qt::AlignBottom);
  }
}

} // namespace vinegar::app
