#include "pages/supply_views.h"

#include "theme/theme.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

namespace vinegar::app {

using units::Unit;

QString readValue(double value, Unit unit, int digits) {
  if (unit == Unit::volt && std::abs(value) < 1e-6) return QStringLiteral("0 V");
  return QString::fromStdString(units::reading(value, unit, digits));
}

namespace {

constexpr double regulationSpan = 2.5; ///< of the idle current
constexpr int regulationPoints = 9;
constexpr double usualHeaterCathodeLimit = 90;

QString tr(const char* text) { return QCoreApplication::translate("SupplyPage", text); }
QString read(double value, Unit unit, int digits = 3) { return readValue(value, unit, digits); }

CurvePlot::Look lookOf(std::size_t side, bool main) {
  using Look = CurvePlot::Look;
  return side == 0 ? (main ? Look::ink : Look::inkThin) : (main ? Look::pencil : Look::pencilThin);
}

/// A rail that a wire joins to the next is the next one.
bool isItself(const amp::Circuit& circuit, std::size_t rail) {
  return rail + 1 >= circuit.rails.size() || circuit.rails[rail].node != circuit.rails[rail + 1].node;
}

/// One side needs no word for which it is.
QString sideName(const Sides& sides, std::size_t side, const QString& name) {
  return sides.size() > 1 ? sides[side].first + QLatin1Char(' ') + name : name;
}

CurvePlot::Picture frame(const QString& title, const QString& x, const QString& xUnit, const QString& y) {
  CurvePlot::Picture picture;
  picture.title = title;
  picture.xLabel = x;
  picture.xUnit = xUnit;
  picture.paneLabels = QStringList{y};
  picture.yUnits = QStringList{tr("V")};
  return picture;
}

/// Two cycles of something on the supply.
void addCycles(std::vector<CurvePlot::Curve>& curves, const predict::SupplyIdle& idle, const Eigen::VectorXd& values,
               const QString& name, CurvePlot::Look look, int pane) {
  if (values.size() == 0) return;
  CurvePlot::Curve curve{name, {}, {}, look, pane, {}};
  const auto n = values.size();
  for (Eigen::Index k = 0; k <= 2 * n; ++k) {
    curve.x.push_back(1000 * idle.cycle.period * static_cast<double>(k) / static_cast<double>(n));
    curve.y.push_back(values[(k + n - 1) % n]);
  }
  curves.push_back(std::move(curve));
}

} // namespace

PictureOrProblem switchOnPicture(const Sides& sides, const amp::Library& library, predict::SwitchOnQuestion::From from,
                                 const QString& fromText, const GoOn& goOn) {
  auto picture =
      frame(tr("Switch-on %1").arg(fromText), tr("s after the switch closes"), tr("s"), tr("V, mean over a cycle"));
  for (std::size_t side = 0; side < sides.size(); ++side) {
    const auto circuit = amp::compile(*sides[side].second, library);
    if (!circuit) return tl::unexpected(circuit.error());
    const auto answer = predict::predictSwitchOn(*circuit, library, {from, 30, [&](double share) {
                                                                       return goOn((share + static_cast<double>(side)) /
                                                                                   static_cast<double>(sides.size()));
                                                                     }});
    if (!answer) return tl::unexpected(answer.error());
    const auto fed = predict::mainRails(*circuit).fed;
    for (std::size_t r = 0; r < answer->rails.size(); ++r) {
      if (!isItself(*circuit, r)) continue;
      const auto& trace = answer->rails[r];
      const bool main = circuit->rails[r].node == fed;
      const auto name = QString::fromStdString(trace.name);
      CurvePlot::Curve curve{
          sideName(sides, side, name),      {0}, {0}, lookOf(side, main), 0, side == 0 ? name : QString(),
          1 - 0.06 * static_cast<double>(r)};
      curve.x.insert(curve.x.end(), answer->seconds.begin(), answer->seconds.end());
      curve.y.insert(curve.y.end(), trace.mean.begin(), trace.mean.end());
      picture.curves.push_back(std::move(curve));
      if (!main || side + 1 < sides.size()) continue;
      const double peak =
          answer->peakAmps.empty() ? 0 : *std::max_element(answer->peakAmps.begin(), answer->peakAmps.end());
      picture.marks.push_back({trace.highest,
                               tr("highest %1 at %2 s; rectifier peak %3")
                                   .arg(read(trace.highest, Unit::volt))
                                   .arg(trace.highestAt, 0, 'f', 1)
                                   .arg(read(peak, Unit::ampere)),
                               false, false, 0});
    }
  }
  return picture;
}

PictureOrProblem dischargePicture(const Sides& sides, const amp::Library& library, bool tubesIn) {
  auto picture = frame(tubesIn ? tr("Discharge, tubes in") : tr("Discharge, tubes out"),
                       tr("s after the plug is pulled"), tr("s"), tr("V"));
  for (std::size_t side = 0; side < sides.size(); ++side) {
    const auto circuit = amp::compile(*sides[side].second, library);
    if (!circuit) return tl::unexpected(circuit.error());
    const auto idle = predict::predictSupplyIdle(*circuit);
    if (!idle) return tl::unexpected(idle.error());
    const auto answer = predict::predictDischarge(*circuit, *idle, tubesIn, 1200);
    if (!answer) return tl::unexpected(answer.error());
    const auto fed = predict::mainRails(*circuit).fed;
    double until = 5;
    for (const auto& rail : answer->rails)
      until = std::max(until, rail.secondsTo50 ? 1.6 * *rail.secondsTo50 : answer->seconds.back());
    for (std::size_t r = 0; r < answer->rails.size(); ++r) {
      if (!isItself(*circuit, r)) continue;
      const auto& rail = answer->rails[r];
      const bool main = circuit->rails[r].node == fed;
      CurvePlot::Curve curve{
          sides[side].first + QLatin1Char(' ') + QString::fromStdString(rail.name), {}, {}, lookOf(side, main), 0};
      for (std::size_t k = 0; k < answer->seconds.size() && answer->seconds[k] <= until; ++k) {
        curve.x.push_back(answer->seconds[k]);
        curve.y.push_back(rail.volts[k]);
      }
      picture.curves.push_back(std::move(curve));
      if (!main || side + 1 < sides.size()) continue;
      const auto word = rail.secondsTo50 ? tr("50 V after %1 s, by calculation: measure before touching")
                                               .arg(*rail.secondsTo50, 0, 'f', *rail.secondsTo50 < 10 ? 1 : 0)
                                         : tr("still above 50 V after %1 minutes: discharge it through a resistor")
                                               .arg(answer->seconds.back() / 60, 0, 'f', 0);
      picture.marks.push_back({50, word, false, true, 0});
    }
  }
  return picture;
}

PictureOrProblem regulationPicture(const Sides& sides, const amp::Library& library, const GoOn& goOn) {
  auto picture = frame(tr("Regulation"), tr("mA drawn from the first rail"), tr("mA"), tr("V, first rail"));
  picture.fromZero = false;
  for (std::size_t side = 0; side < sides.size(); ++side) {
    const auto& [word, design] = sides[side];
    const bool last = side + 1 == sides.size();
    const auto circuit = amp::compile(*design, library);
    if (!circuit) return tl::unexpected(circuit.error());
    const auto idle = predict::predictSupplyIdle(*circuit);
    if (!idle) return tl::unexpected(idle.error());
    std::vector<double> amps;
    for (int k = 0; k < regulationPoints; ++k)
      amps.push_back(std::max(regulationSpan * idle->loadAmps * k / (regulationPoints - 1), 1e-3));
    if (last) picture.marks.push_back({1000 * idle->loadAmps, tr("idle"), true, false, 0});
    std::vector<predict::SupplyChoice> choices{{"", {}}};
    if (last)
      for (const auto& choice : predict::rectifierChoices(*design, library))
        if (!choice.changes.empty()) choices.push_back(choice);
    for (std::size_t c = 0; c < choices.size(); ++c) {
      if (!goOn(static_cast<double>(c) / static_cast<double>(choices.size())))
        return tl::unexpected(Problem{"", "cancelled"});
      const auto curve = predict::predictRegulation(*design, library, choices[c].changes, amps);
      if (!curve) continue; // one without an answer is told in Choices
      const auto type = QString::fromStdString(curve->type);
      CurvePlot::Curve drawn{c == 0 ? word + QLatin1Char(' ') + type : type,
                             {},
                             curve->volts,
                             c == 0 ? lookOf(side, true) : CurvePlot::Look::inkThin,
                             0,
                             c == 0 && side > 0 ? QString() : type,
                             1 - 0.085 * static_cast<double>(c)};
      for (const double x : curve->amps)
        drawn.x.push_back(1000 * x);
      picture.curves.push_back(std::move(drawn));
    }
  }
  return picture;
}

CurvePlot::Picture cyclesPicture(const predict::Overview* ink, const predict::Overview* pencil, const QString& rail) {
  auto picture = frame(tr("Cycles of the mains, rail %1").arg(rail), tr("ms"), tr("ms"), tr("V, rail %1").arg(rail));
  picture.paneLabels << tr("mA, one plate");
  picture.yUnits << tr("mA");
  picture.fromZero = false;
  for (const auto& [overview, look] : {std::pair{ink, CurvePlot::Look::ink}, {pencil, CurvePlot::Look::pencil}}) {
    if (!overview || !overview->point.supply) continue;
    const auto& idle = *overview->point.supply;
    const auto& circuit = *overview->circuit;
    for (const auto& r : circuit.rails)
      if (QString::fromStdString(r.name) == rail) addCycles(picture.curves, idle, idle.volts(r.node), {}, look, 0);
    if (!circuit.supply.rectifiers.empty())
      addCycles(picture.curves, idle, 1000 * idle.amps(circuit.supply.rectifiers.front()), {}, look, 1);
  }
  return picture;
}

TextColours textColours() {
  const auto& t = theme();
  return {t.ink.name(), t.quiet.name(), t.danger.name(), t.signal.name()};
}

QString budgetsText(const predict::Overview& overview, const amp::Library& library, const TextColours& colours) {
  const auto report = predict::readSupply(*overview.circuit, library, overview.point);
  QString html;
  const auto table = [&](const QStringList& head, const std::vector<QStringList>& lines) {
    html += QStringLiteral("<table cellpadding='3' width='100%'><tr>");
    for (const auto& cell : head)
      html += QStringLiteral("<td style='color:%1'>%2</td>").arg(colours.quiet, cell);
    html += QStringLiteral("</tr>");
    for (const auto& line : lines) {
      html += QStringLiteral("<tr>");
      for (const auto& cell : line)
        html += QStringLiteral("<td>%1</td>").arg(cell);
      html += QStringLiteral("</tr>");
    }
    html += QStringLiteral("</table>");
  };
  std::vector<QStringList> lines;
  const auto over = [&](const QString& text, bool bad) {
    return bad ? QStringLiteral("<span style='color:%1'>\u26a0 %2</span>").arg(colours.danger, text) : text;
  };
  for (const auto& w : report.windings)
    lines.push_back({QString::fromStdString(w.part + " " + w.name), read(w.rmsVolts, Unit::volt),
                     read(w.rmsAmps, Unit::ampere), read(w.ratedAmps, Unit::ampere),
                     over(QStringLiteral("%1 %").arg(100 * w.share(), 0, 'f', 0), w.share() > 1.02)});
  lines.push_back({tr("mains"), read(overview.circuit->supply.volts, Unit::volt),
                   read(report.primaryAmps, Unit::ampere), QString(),
                   tr("%1, %2 VA").arg(read(report.primaryWatts, Unit::watt)).arg(report.primaryVa, 0, 'f', 0)});
  table({tr("winding"), tr("volts rms"), tr("ampere rms"), tr("rated"), tr("load")}, lines);
  lines.clear();
  for (const auto& h : report.heaters) {
    const double share = h.rmsVolts / h.nominalVolts;
    lines.push_back({QString::fromStdString(h.part), read(h.nominalVolts, Unit::volt, 2),
                     over(read(h.rmsVolts, Unit::volt), std::abs(share - 1) > 0.1), read(h.rmsAmps, Unit::ampere),
                     read(h.meanVolts, Unit::volt)});
  }
  table({tr("heaters"), tr("made for"), tr("get"), tr("draw"), tr("above ground")}, lines);
  lines.clear();
  double most = 0;
  for (const auto& hk : report.heaterCathodes) {
    if (std::abs(hk.volts) > std::abs(most)) most = hk.volts;
    lines.push_back({QString::fromStdString(hk.tube), read(hk.volts, Unit::volt),
                     over(hk.limit ? read(*hk.limit, Unit::volt) : tr("not agreed; 90 V is a usual limit"),
                          std::abs(hk.volts) > hk.limit.value_or(usualHeaterCathodeLimit))});
  }
  table({tr("tube"), tr("cathode over heater"), tr("limit")}, lines);
  if (most > 45) {
    // From the first rail that feeds the amplifier, a divider that puts the heaters at half of the highest cathode.
    const double rail = overview.point.volts(predict::mainRails(*overview.circuit).fed), wanted = most / 2;
    const double foot = 47000, top = units::nearest(units::Series::e12, foot * (rail - wanted) / wanted);
    html +=
        QStringLiteral("<p>%1</p>")
            .arg(tr("To lift the heaters by about half of that, %1: %2 from the first rail and 47k to ground, with 22 "
                    "\u00b5F across the lower one, give %3. A heater-elevation lane joins it to the heaters' foot.")
                     .arg(read(wanted, Unit::volt, 2), QString::fromStdString(units::schematic(top, Unit::ohm)),
                          read(rail * foot / (foot + top), Unit::volt, 2)));
  }
  // Mains at its ends, the heaters included, and the rails with nothing to hold them down.
  struct Case {
    double share, emission;
    QString word;
  };
  lines.clear();
  for (const auto& [share, emission, word] :
       {Case{0.9, 1, tr("\u221210 %")}, Case{1, 1, tr("as it is")}, Case{1.1, 1, tr("+10 %")},
        Case{1, 0, tr("as it is, tubes cold or out")}, Case{1.1, 0, tr("+10 %, tubes cold or out")}}) {
    auto design = *overview.circuit->design;
    for (const auto& part : amp::resolveParts(design, library))
      if (part.part->kind == amp::PartKind::mains)
        design = amp::withChanges(design, library, {{part.name, "value", part.value(), share * part.value()}});
    const auto circuit = amp::compile(design, library);
    const auto idle = circuit ? predict::predictSupplyIdle(*circuit, overview.point.supply.get(), {emission, 0, 0})
                              : tl::unexpected(circuit.error());
    QStringList line{word};
    if (!idle) {
      line << over(QString::fromStdString(idle.error().line()).toHtmlEscaped(), true);
    } else {
      const auto at = predict::readSupply(*circuit, library, *idle);
      line << read(circuit->supply.volts, Unit::volt)
           << read(idle->meanVolts(predict::mainRails(*circuit).fed), Unit::volt);
      for (const auto& h : at.heaters)
        line << read(h.rmsVolts, Unit::volt);
    }
    lines.push_back(line);
  }
  QStringList head{tr("mains"), tr("volts"), tr("first rail")};
  for (const auto& h : report.heaters)
    head << QString::fromStdString(h.part);
  table(head, lines);

  lines.clear();
  const double hertz = overview.circuit->supply.hertz;
  QStringList harmonics{tr("ripple, peak")};
  for (const int k : {1, 2, 4, 6})
    harmonics << tr("%1 Hz").arg(k * hertz, 0, 'f', 0);
  for (std::size_t r = 0; r < report.rails.size(); ++r) {
    if (!isItself(*overview.circuit, r)) continue;
    QStringList line{QString::fromStdString(report.rails[r].name)};
    for (const std::size_t k : {1, 2, 4, 6})
      line << read(report.rails[r].harmonics[k], Unit::volt, 2);
    lines.push_back(line);
  }
  table(harmonics, lines);
  return html;
}

QString findingsText(const std::vector<audit::Finding>& findings, const QString& unchecked,
                     const TextColours& colours) {
  QString html;
  const auto escape = [](const std::string& text) { return QString::fromStdString(text).toHtmlEscaped(); };
  if (!unchecked.isEmpty())
    html += QStringLiteral("<p style='color:%1'><b>\u26a0 %2</b></p>").arg(colours.danger, unchecked.toHtmlEscaped());
  else if (findings.empty())
    html += QStringLiteral("<p>%1</p>").arg(tr("Nothing found at idle, with the tubes out, and after switch-off."));
  for (const auto& finding : findings) {
    const auto name = finding.part.empty() ? tr("Supply") : QString::fromStdString(finding.part).toHtmlEscaped();
    const QString mark =
        finding.danger
            ? QStringLiteral("<span style='color:%1'><b>\u26a0 %2</b></span> ").arg(colours.danger, tr("Danger"))
            : QString();
    html += QStringLiteral(
                "<p>%1<a href='part:%2' style='color:%5'><b>%2</b></a> %3<br/><span style='color:%6'>%4</span></p>")
                .arg(mark, name, escape(finding.what), escape(finding.cure), colours.ink, colours.quiet);
  }
  html += QStringLiteral("<p><a href='safety:' style='color:%1'>%2</a></p>")
              .arg(colours.link, tr("Before your hands go in: the safety rules"));
  return html;
}

} // namespace vinegar::app
