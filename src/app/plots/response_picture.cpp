#include "plots/response_picture.h"

#include "files/csv.h"
#include "theme/text.h"

namespace vinegar::app {
namespace {

struct NoteMark {
  const char* name;
  double hertz;
};
constexpr NoteMark noteMarks[] = {{"E1", 41.2},  {"E2", 82.41}, {"A2", 110},   {"G3", 196},
                                  {"E4", 329.6}, {"A4", 440},   {"E6", 1318.5}};

QString nameOf(const Side& side) {
  switch (side.look) {
  case Side::Look::ink:
    return side.name.isEmpty() ? tr("ink") : side.name;
  case Side::Look::active:
    return side.place == Side::besides ? side.name : tr("pencil");
  case Side::Look::other:
    break;
  }
  return side.name;
}

} // namespace

predict::ResponseQuestion responseOver(const QString& from, const QString& to) {
  static const auto hertz = circuit::logSpaced(10, 100000, 300);
  return {from.toStdString(), to.toStdString(), hertz};
}

CurvePlot::Picture responsePicture(const Answers<predict::Response>& answers, const ResponseOptions& options) {
  using Look = CurvePlot::Look;
  using Scale = CurvePlot::Pane::Scale;
  CurvePlot::Picture picture;
  picture.title = tr("Response, %1").arg(options.span);
  picture.hertz = picture.stay = picture.againstInk = true;
  picture.cursorAt = 1000;
  picture.panes.push_back({tr("dB, %1").arg(options.span), tr("dB"), Scale::decibels});
  if (options.phase) picture.panes.push_back({tr("degrees"), tr("\u00b0"), Scale::degrees});
  const auto* ink = answers.inkValue();
  const bool difference = options.difference && ink;
  if (difference) picture.panes.push_back({tr("dB over ink"), tr("dB"), Scale::fromZero});
  if (options.notes)
    for (const auto& [name, hertz] : noteMarks)
      picture.notes.push_back({hertz, QString::fromLatin1(name)});
  std::vector<std::pair<std::string, predict::Response>> figures;
  int others = 0;
  for (const auto& answer : answers.sides) {
    const auto* response = answer.get();
    if (!response) continue;
    const auto name = nameOf(answer.side);
    const auto look = answer.side.look == Side::Look::ink      ? Look::ink
                      : answer.side.look == Side::Look::active ? Look::pencil
                      : others++ % 2 == 0                      ? Look::other
                                                               : Look::another;
    picture.curves.push_back({name, response->hertz, response->decibels, look, 0});
    if (options.phase) picture.curves.push_back({name, response->hertz, response->degrees, look, 1});
    if (difference && response != ink) {
      CurvePlot::Curve over{name, response->hertz, {}, look, 1};
      for (std::size_t f = 0; f < response->hertz.size(); ++f)
        over.y.push_back(response->decibels[f] - ink->decibels[f]);
      picture.curves.push_back(std::move(over));
    }
    figures.emplace_back(name.toStdString(), *response);
  }
  picture.figures = [figures = std::move(figures)] { return files::responsesCsv(figures); };
  return picture;
}

} // namespace vinegar::app
