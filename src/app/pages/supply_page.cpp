#include "pages/supply_page.h"

#include "drawer/figure_table.h"
#include "pages/choices_view.h"
#include "plots/curve_plot.h"
#include "predict/supply_events.h"
#include "theme/theme.h"
#include "window/session.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QStackedWidget>
#include <QTextBrowser>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <fmt/format.h>

namespace vinegar::app {
namespace {

using units::Unit;

constexpr int summaryWidth = 236;
constexpr double regulationSpan = 2.5; ///< of the idle current
constexpr int regulationPoints = 9;

QString read(double value, Unit unit, int digits = 3) {
  if (unit == Unit::volt && std::abs(value) < 1e-6) return QStringLiteral("0 V");
  return QString::fromStdString(units::reading(value, unit, digits));
}

const predict::Overview* overviewOf(const Shown::Answer& answer) { return answer ? answer->get() : nullptr; }

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

SupplyPage::SupplyPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName(QStringLiteral("page"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 8, 14, 6);
  column->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->setSpacing(4);
  auto* title = new QLabel(tr("Supply"));
  title->setFont(textFont(14, QFont::DemiBold));
  head->addWidget(title);
  auto* question = new QLabel(tr("what voltages will I get?"));
  question->setProperty("quiet", true);
  question->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  head->addWidget(question, 1);
  tabs_ = new QButtonGroup(this);
  const std::vector<std::pair<View, QString>> names{{cycles, tr("Cycles")},       {switchOn, tr("Switch-on")},
                                                    {discharge, tr("Discharge")}, {regulation, tr("Regulation")},
                                                    {choices, tr("Choices")},     {budgets, tr("Budgets")},
                                                    {findings, tr("Findings")}};
  for (const auto& [view, name] : names) {
    auto* button = new QPushButton(name);
    button->setCheckable(true);
    button->setObjectName(QStringLiteral("view ") + name);
    button->setStyleSheet(QStringLiteral("padding-left: 9px; padding-right: 9px;"));
    tabs_->addButton(button, view);
    head->addWidget(button);
    if (view == findings) findingsTab_ = button;
  }
  column->addLayout(head);
  auto* row = new QHBoxLayout;
  row->setSpacing(14);
  summary_ = new FigureTable;
  summary_->setObjectName(QStringLiteral("supplySummary"));
  summary_->setAccessibleName(tr("Rails"));
  summary_->setFixedWidth(summaryWidth);
  auto* left = new QVBoxLayout;
  left->addWidget(summary_);
  left->addStretch(1);
  row->addLayout(left);
  stack_ = new QStackedWidget;
  row->addWidget(stack_, 1);
  column->addLayout(row, 1);

  auto* plotPane = new QWidget;
  auto* plotColumn = new QVBoxLayout(plotPane);
  plotColumn->setContentsMargins(0, 0, 0, 0);
  plot_ = new CurvePlot;
  plotColumn->addWidget(plot_);
  source_ = new QComboBox;
  source_->setObjectName(QStringLiteral("supplySource"));
  source_->setAccessibleName(tr("What to show"));
  source_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
  from_ = new QComboBox;
  from_->setObjectName(QStringLiteral("switchOnFrom"));
  from_->setAccessibleName(tr("Starting from"));
  from_->addItems({tr("from cold"), tr("from standby, tubes warm"), tr("off and on again, all hot")});
  auto* fit = new QPushButton(tr("Fit"));
  auto* share = new QToolButton;
  share->setText(tr("Export"));
  share->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(share);
  menu->addAction(tr("Copy picture and figures"), this, [this] { plot_->copyToClipboard(); });
  menu->addAction(tr("Export as SVG, PDF, PNG or CSV\u2026"), this, &SupplyPage::exportPlot);
  share->setMenu(menu);
  progress_ = new QLabel;
  progress_->setObjectName(QStringLiteral("supplyProgress"));
  progress_->setProperty("quiet", true);
  progress_->hide();
  cancelButton_ = new QPushButton(tr("Cancel"));
  cancelButton_->setObjectName(QStringLiteral("cancelSupply"));
  cancelButton_->hide();
  for (QWidget* tool :
       {static_cast<QWidget*>(source_), static_cast<QWidget*>(from_), static_cast<QWidget*>(fit),
        static_cast<QWidget*>(share), static_cast<QWidget*>(progress_), static_cast<QWidget*>(cancelButton_)})
    plot_->addTool(tool);
  stack_->addWidget(plotPane);
  choicesView_ = new ChoicesView(session_);
  stack_->addWidget(choicesView_);
  const auto browser = [&](const char* name, const QString& accessible) {
    auto* view = new QTextBrowser;
    view->setObjectName(QLatin1String(name));
    view->setAccessibleName(accessible);
    view->setFrameShape(QFrame::NoFrame);
    view->setOpenLinks(false);
    connect(view, &QTextBrowser::anchorClicked, this, [this](const QUrl& url) {
      if (url.toString() == QStringLiteral("safety:"))
        showSafety();
      else
        Q_EMIT partWanted(url.path());
    });
    stack_->addWidget(view);
    return view;
  };
  budgetsView_ = browser("budgets", tr("Transformer and heater budgets"));
  findingsView_ = browser("supplyFindings", tr("Findings"));

  connect(tabs_, &QButtonGroup::idClicked, this, [this](int id) { showView(static_cast<View>(id)); });
  connect(source_, &QComboBox::activated, this, [this] { view_ == cycles ? showCycles() : askView(); });
  connect(from_, &QComboBox::activated, this, &SupplyPage::askView);
  connect(fit, &QPushButton::clicked, this, [this] { plot_->fit(); });
  connect(cancelButton_, &QPushButton::clicked, this, [this] {
    if (cancel_) *cancel_ = true;
  });
  showView(cycles);
}

SupplyPage::~SupplyPage() {
  if (cancel_) *cancel_ = true;
}

bool SupplyPage::idle() const { return viewWork_.idle() && findingsWork_.idle() && choicesView_->idle(); }

std::vector<std::pair<QString, std::shared_ptr<const amp::Design>>> SupplyPage::designs() const {
  std::vector<std::pair<QString, std::shared_ptr<const amp::Design>>> all;
  if (const auto* ink = overviewOf(shown_.ink); ink && ink->point.supply)
    all.emplace_back(tr("ink"), ink->circuit->design);
  if (shown_.pencilled())
    if (const auto* now = overviewOf(shown_.now()); now && now->point.supply)
      all.emplace_back(tr("pencil"), now->circuit->design);
  return all;
}

void SupplyPage::showView(View view) {
  view_ = view;
  tabs_->button(view)->setChecked(true);
  stack_->setCurrentIndex(view <= regulation ? 0 : view - regulation);
  summary_->setVisible(view != choices); // its rows hold the rails themselves
  source_->setVisible(view == cycles || view == discharge);
  from_->setVisible(view == switchOn);
  fillSources();
  askView();
}

void SupplyPage::fillSources() {
  QStringList wanted;
  const auto* any = overviewOf(shown_.ink) ? overviewOf(shown_.ink) : overviewOf(shown_.now());
  if (view_ == discharge) {
    wanted = {tr("tubes in"), tr("tubes out")};
  } else if (any && any->point.supply) {
    circuit::Node last = -1;
    for (auto rail = any->circuit->rails.rbegin(); rail != any->circuit->rails.rend(); ++rail) {
      if (rail->node != last) wanted.prepend(tr("rail %1").arg(QString::fromStdString(rail->name)));
      last = rail->node;
    }
  }
  QStringList now;
  for (int i = 0; i < source_->count(); ++i)
    now << source_->itemText(i);
  if (now == wanted) return;
  const QString chosen = source_->currentText();
  const QSignalBlocker block(source_);
  source_->clear();
  source_->addItems(wanted);
  if (wanted.contains(chosen)) source_->setCurrentText(chosen);
}

void SupplyPage::display(const Shown& shown) {
  shown_ = shown;
  fillSources();
  showSummary();
  askFindings();
  if (isVisible()) askView();
}

void SupplyPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  askView();
}

void SupplyPage::restyle() {
  plot_->restyle();
  showBudgets();
  showFindings();
}

void SupplyPage::showSummary() {
  using Look = FigureTable::Look;
  const auto* ink = overviewOf(shown_.ink);
  const auto* pencil = shown_.pencilled() ? overviewOf(shown_.now()) : nullptr;
  FigureTable::Rows rows;
  const auto* any = ink ? ink : pencil;
  if (!any || !any->point.supply) {
    summary_->setRows({{{any ? tr("no mains") : tr("no answer"), Look::quiet}}}, 99);
    return;
  }
  const auto add = [&](const QString& name, const QString& inkText, const QString& pencilText,
                       Look look = Look::figure) {
    rows.push_back({{name, Look::quiet}, {inkText, look}});
    rows.back().push_back({pencilText != inkText ? pencilText : QString(), Look::pencil});
  };
  const auto inkReport = ink && ink->point.supply
                             ? predict::readSupply(*ink->circuit, session_.library(), *ink->point.supply)
                             : predict::SupplyReport{};
  const auto pencilReport = pencil && pencil->point.supply
                                ? predict::readSupply(*pencil->circuit, session_.library(), *pencil->point.supply)
                                : predict::SupplyReport{};
  const bool two = pencil && pencil->point.supply;
  const auto& base = ink && ink->point.supply ? inkReport : pencilReport;
  const auto pair = [&](const QString& name, auto pick, auto count) {
    const auto text = [&](const predict::SupplyReport& report) { return count(report) ? pick(report) : QString(); };
    add(name, text(inkReport), two ? text(pencilReport) : text(inkReport));
  };
  for (std::size_t i = 0; i < base.rails.size(); ++i) {
    if (i + 1 < base.rails.size() && base.rails[i].node == base.rails[i + 1].node) continue;
    const auto there = [i](const predict::SupplyReport& r) { return i < r.rails.size(); };
    rows.push_back({{QString::fromStdString(base.rails[i].name), Look::figure, 12},
                    {there(inkReport) ? read(inkReport.rails[i].volts, Unit::volt) : QString(), Look::figure, 12},
                    {two && there(pencilReport) &&
                             read(pencilReport.rails[i].volts, Unit::volt) !=
                                 (there(inkReport) ? read(inkReport.rails[i].volts, Unit::volt) : QString())
                         ? read(pencilReport.rails[i].volts, Unit::volt)
                         : QString(),
                     Look::pencil, 12}});
    pair(
        tr("  ripple"), [i](const auto& r) { return read(r.rails[i].rippleVpp, Unit::volt, 2) + QStringLiteral("pp"); },
        there);
  }
  if (!base.rectifiers.empty()) {
    const auto there = [](const predict::SupplyReport& r) { return !r.rectifiers.empty(); };
    pair(
        tr("Rectifier"), [](const auto& r) { return QString::fromStdString(r.rectifiers.front().type); }, there);
    pair(
        tr("  peak"), [](const auto& r) { return read(r.rectifiers.front().peakAmps, Unit::ampere); }, there);
    pair(
        tr("  conducts"),
        [](const auto& r) { return QStringLiteral("%1\u00b0").arg(r.rectifiers.front().conductionDegrees, 0, 'f', 0); },
        there);
  }
  if (!base.windings.empty()) {
    const auto there = [](const predict::SupplyReport& r) { return !r.windings.empty(); };
    pair(
        tr("HT winding"),
        [](const auto& r) { return QStringLiteral("%1 %").arg(100 * r.windings.front().share(), 0, 'f', 0); }, there);
    pair(
        tr("Mains draw"), [](const auto& r) { return read(r.primaryAmps, Unit::ampere); }, there);
  }
  summary_->setRows(std::move(rows), 1);
}

void SupplyPage::showCycles() {
  const auto wanted = source_->currentText();
  CurvePlot::Picture picture;
  picture.title = tr("Cycles of the mains, %1").arg(wanted);
  picture.xLabel = tr("ms");
  picture.xUnit = tr("ms");
  picture.paneLabels = {tr("V, %1").arg(wanted), tr("mA, one plate")};
  picture.yUnits = {tr("V"), tr("mA")};
  picture.fromZero = false;
  const auto add = [&](const predict::Overview* overview, CurvePlot::Look look) {
    if (!overview || !overview->point.supply) return;
    const auto& idle = *overview->point.supply;
    for (const auto& rail : overview->circuit->rails)
      if (tr("rail %1").arg(QString::fromStdString(rail.name)) == wanted)
        addCycles(picture.curves, idle, idle.volts(rail.node), {}, look, 0);
    if (!overview->circuit->supply.rectifiers.empty())
      addCycles(picture.curves, idle, 1000 * idle.amps(overview->circuit->supply.rectifiers.front()), {}, look, 1);
  };
  add(overviewOf(shown_.ink), CurvePlot::Look::ink);
  if (shown_.pencilled()) add(overviewOf(shown_.now()), CurvePlot::Look::pencil);
  if (picture.curves.empty()) {
    const auto* any = overviewOf(shown_.now());
    plot_->say(any ? tr("This design has no mains: it runs from a bench supply. Start its supply with a transformer "
                        "and rectifier section to see cycles.")
                   : tr("No answer: %1")
                         .arg(QString::fromStdString(shown_.now() ? std::string() : shown_.now().error().line())),
               !any);
    return;
  }
  plot_->show(std::move(picture));
}

void SupplyPage::askView() {
  if (cancel_) *cancel_ = true;
  showProgress(-1);
  if (view_ == cycles) return showCycles();
  if (view_ == budgets) return showBudgets();
  if (view_ == findings) return showFindings();
  const auto all = designs();
  if (all.empty()) {
    if (view_ != choices) showCycles();
    return;
  }
  if (view_ == choices) return choicesView_->ask(all.back().second);
  cancel_ = std::make_shared<std::atomic<bool>>(false);
  const auto goOn = [cancel = cancel_, this](double share) {
    QMetaObject::invokeMethod(
        this,
        [this, cancel, share] {
          if (!*cancel) showProgress(share);
        },
        Qt::QueuedConnection);
    return !cancel->load();
  };
  const auto& library = session_.library();
  const auto view = view_;
  const bool tubesIn = source_->currentIndex() == 0;
  const auto from = static_cast<predict::SwitchOnQuestion::From>(std::max(from_->currentIndex(), 0));
  const QString fromText = from_->currentText();
  viewWork_.ask([this, all, view, goOn, tubesIn, from, fromText, &library]() -> LatestWins::Deliver {
    CurvePlot::Picture picture;
    std::string problem;
    const auto refused = [&](const Problem& p) {
      problem = p.line();
      return false;
    };
    const auto look = [&](std::size_t i, bool main) {
      return i == 0 ? (main ? CurvePlot::Look::ink : CurvePlot::Look::inkThin)
                    : (main ? CurvePlot::Look::pencil : CurvePlot::Look::pencilThin);
    };
    for (std::size_t i = 0; i < all.size() && problem.empty(); ++i) {
      const auto& [name, design] = all[i];
      const auto circuit = amp::compile(*design, library);
      if (!circuit) {
        refused(circuit.error());
        break;
      }
      const auto rails = predict::mainRails(*circuit);
      const auto single = [&](std::size_t r) { // a rail that a wire joins to the next is the next one
        return r + 1 >= circuit->rails.size() || circuit->rails[r].node != circuit->rails[r + 1].node;
      };
      if (view == switchOn) {
        picture.title = SupplyPage::tr("Switch-on %1").arg(fromText);
        picture.xLabel = SupplyPage::tr("s after the switch closes");
        picture.xUnit = SupplyPage::tr("s");
        picture.yUnits = QStringList{SupplyPage::tr("V")};
        picture.paneLabels = QStringList{SupplyPage::tr("V, mean over a cycle")};
        const auto answer = predict::predictSwitchOn(
            *circuit, library, {from, 30, [&](double share) {
                                  return goOn((share + static_cast<double>(i)) / static_cast<double>(all.size()));
                                }});
        if (!answer) {
          refused(answer.error());
          break;
        }
        for (std::size_t r = 0; r < answer->rails.size(); ++r) {
          if (!single(r)) continue;
          const auto& trace = answer->rails[r];
          CurvePlot::Curve curve{name + QLatin1Char(' ') + QString::fromStdString(trace.name),
                                 {0},
                                 {0},
                                 look(i, circuit->rails[r].node == rails.fed),
                                 0,
                                 i == 0 ? QString::fromStdString(trace.name) : QString(),
                                 1 - 0.06 * static_cast<double>(r)};
          curve.x.insert(curve.x.end(), answer->seconds.begin(), answer->seconds.end());
          curve.y.insert(curve.y.end(), trace.mean.begin(), trace.mean.end());
          picture.curves.push_back(std::move(curve));
          if (circuit->rails[r].node == rails.fed && i + 1 == all.size())
            picture.marks.push_back(
                {trace.highest,
                 SupplyPage::tr("highest %1 at %2 s; rectifier peak %3")
                     .arg(read(trace.highest, Unit::volt))
                     .arg(trace.highestAt, 0, 'f', 1)
                     .arg(
                         answer->peakAmps.empty()
                             ? QString()
                             : read(*std::max_element(answer->peakAmps.begin(), answer->peakAmps.end()), Unit::ampere)),
                 false, false, 0});
        }
      } else if (view == discharge) {
        picture.title =
            SupplyPage::tr("Discharge, tubes %1").arg(tubesIn ? SupplyPage::tr("in") : SupplyPage::tr("out"));
        picture.xLabel = SupplyPage::tr("s after the plug is pulled");
        picture.xUnit = SupplyPage::tr("s");
        picture.paneLabels = QStringList{SupplyPage::tr("V")};
        picture.yUnits = picture.paneLabels;
        const auto idle = predict::predictSupplyIdle(*circuit);
        const auto answer =
            idle ? predict::predictDischarge(*circuit, *idle, tubesIn, 1200) : tl::unexpected(idle.error());
        if (!answer) {
          refused(answer.error());
          break;
        }
        double until = 5;
        for (const auto& rail : answer->rails)
          until = std::max(until, rail.secondsTo50 ? 1.6 * *rail.secondsTo50 : answer->seconds.back());
        for (std::size_t r = 0; r < answer->rails.size(); ++r) {
          if (!single(r)) continue;
          CurvePlot::Curve curve{name + QLatin1Char(' ') + QString::fromStdString(answer->rails[r].name),
                                 {},
                                 {},
                                 look(i, circuit->rails[r].node == rails.fed),
                                 0,
                                 {}};
          for (std::size_t k = 0; k < answer->seconds.size() && answer->seconds[k] <= until; ++k) {
            curve.x.push_back(answer->seconds[k]);
            curve.y.push_back(answer->rails[r].volts[k]);
          }
          picture.curves.push_back(std::move(curve));
          if (circuit->rails[r].node == rails.fed && i + 1 == all.size())
            picture.marks.push_back(
                {50,
                 answer->rails[r].secondsTo50
                     ? SupplyPage::tr("50 V after %1 s, by calculation: measure before touching")
                           .arg(*answer->rails[r].secondsTo50, 0, 'f', *answer->rails[r].secondsTo50 < 10 ? 1 : 0)
                     : SupplyPage::tr("still above 50 V after %1 minutes: discharge it through a resistor")
                           .arg(answer->seconds.back() / 60, 0, 'f', 0),
                 false, true, 0});
        }
      } else {
        picture.title = SupplyPage::tr("Regulation");
        picture.xLabel = SupplyPage::tr("mA drawn from the first rail");
        picture.xUnit = SupplyPage::tr("mA");
        picture.paneLabels = QStringList{SupplyPage::tr("V, first rail")};
        picture.yUnits = QStringList{SupplyPage::tr("V")};
        picture.fromZero = false;
        const auto idle = predict::predictSupplyIdle(*circuit);
        if (!idle) {
          refused(idle.error());
          break;
        }
        std::vector<double> amps;
        for (int k = 0; k < regulationPoints; ++k)
          amps.push_back(std::max(regulationSpan * idle->loadAmps * k / (regulationPoints - 1), 1e-3));
        if (i + 1 == all.size())
          picture.marks.push_back({1000 * idle->loadAmps, SupplyPage::tr("idle"), true, false, 0});
        std::vector<predict::SupplyChoice> alternatives;
        if (i + 1 == all.size())
          for (const auto& choice : predict::rectifierChoices(*design, library))
            if (!choice.changes.empty()) alternatives.push_back(choice);
        alternatives.insert(alternatives.begin(), {"", {}});
        for (std::size_t a = 0; a < alternatives.size(); ++a) {
          if (!goOn(static_cast<double>(a) / static_cast<double>(alternatives.size()))) {
            problem = "cancelled";
            break;
          }
          const auto curve = predict::predictRegulation(*design, library, alternatives[a].changes, amps);
          if (!curve) continue; // an alternative without an answer is told in Choices
          CurvePlot::Curve drawn{a == 0 ? name + QLatin1Char(' ') + QString::fromStdString(curve->type)
                                        : QString::fromStdString(curve->type),
                                 {},
                                 curve->volts,
                                 a == 0 ? look(i, true) : CurvePlot::Look::inkThin,
                                 0,
                                 a == 0 && i > 0 ? QString() : QString::fromStdString(curve->type),
                                 1 - 0.085 * static_cast<double>(a)};
          for (const double x : curve->amps)
            drawn.x.push_back(1000 * x);
          picture.curves.push_back(std::move(drawn));
        }
      }
    }
    return [this, picture = std::move(picture), problem, view]() mutable {
      showProgress(-1);
      if (view != view_) return;
      if (!problem.empty())
        plot_->say(problem == "cancelled" ? tr("Cancelled. Choose the view again to start anew.")
                                          : QString::fromStdString(problem),
                   problem != "cancelled");
      else
        plot_->show(std::move(picture));
    };
  });
}

void SupplyPage::showProgress(double share) {
  progress_->setVisible(share >= 0);
  cancelButton_->setVisible(share >= 0);
  if (share >= 0) progress_->setText(tr("%1 %").arg(std::lround(100 * share)));
}

void SupplyPage::askFindings() {
  const auto& now = shown_.now();
  std::shared_ptr<const predict::Overview> overview = now ? *now : nullptr;
  if (!overview || !overview->point.supply) {
    findings_.clear();
    showFindings();
    Q_EMIT findingsChanged(findings_);
    return;
  }
  findingsWork_.ask([this, overview, &library = session_.library()]() -> LatestWins::Deliver {
    auto found = audit::auditSupply(*overview->circuit, library, overview->point);
    return [this, found = std::move(found)]() mutable {
      findings_ = std::move(found);
      showFindings();
      Q_EMIT findingsChanged(findings_);
    };
  });
}

void SupplyPage::showFindings() {
  findingsTab_->setText(findings_.empty() ? tr("Findings") : tr("Findings %1").arg(findings_.size()));
  QString html;
  const auto escape = [](const std::string& text) { return QString::fromStdString(text).toHtmlEscaped(); };
  if (findings_.empty())
    html += QStringLiteral("<p>%1</p>").arg(tr("Nothing found at idle, with the tubes out, and after switch-off."));
  for (const auto& finding : findings_) {
    const auto name = finding.part.empty() ? tr("Supply") : QString::fromStdString(finding.part).toHtmlEscaped();
    const QString mark =
        finding.danger
            ? QStringLiteral("<span style='color:%1'><b>\u26a0 %2</b></span> ").arg(theme().danger.name(), tr("Danger"))
            : QString();
    html += QStringLiteral(
                "<p>%1<a href='part:%2' style='color:%5'><b>%2</b></a> %3<br/><span style='color:%6'>%4</span></p>")
                .arg(mark, name, escape(finding.what), escape(finding.cure), theme().ink.name(), theme().quiet.name());
  }
  html += QStringLiteral("<p><a href='safety:' style='color:%1'>%2</a></p>")
              .arg(theme().signal.name(), tr("Before your hands go in: the safety rules"));
  findingsView_->setHtml(html);
}

void SupplyPage::showBudgets() {
  const auto* now = overviewOf(shown_.now());
  if (!now || !now->point.supply) {
    budgetsView_->setHtml(tr("This design has no mains."));
    return;
  }
  const auto report = predict::readSupply(*now->circuit, session_.library(), now->point);
  QString html;
  const auto table = [&](const QStringList& head, const std::vector<QStringList>& lines) {
    html += QStringLiteral("<table cellpadding='3' width='100%'><tr>");
    for (const auto& cell : head)
      html += QStringLiteral("<td style='color:%1'>%2</td>").arg(theme().quiet.name(), cell);
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
    return bad ? QStringLiteral("<span style='color:%1'>\u26a0 %2</span>").arg(theme().danger.name(), text) : text;
  };
  for (const auto& w : report.windings)
    lines.push_back({QString::fromStdString(w.part + " " + w.name), read(w.rmsVolts, Unit::volt),
                     read(w.rmsAmps, Unit::ampere), read(w.ratedAmps, Unit::ampere),
                     over(QStringLiteral("%1 %").arg(100 * w.share(), 0, 'f', 0), w.share() > 1.02)});
  lines.push_back({tr("mains"), read(now->circuit->supply.volts, Unit::volt), read(report.primaryAmps, Unit::ampere),
                   QString(),
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
                          std::abs(hk.volts) > hk.limit.value_or(90))});
  }
  table({tr("tube"), tr("cathode over heater"), tr("limit")}, lines);
  if (most > 45) {
    // From the first rail that feeds the amplifier, a divider that puts the heaters at half of the highest cathode.
    const double rail = now->point.volts(predict::mainRails(*now->circuit).fed), wanted = most / 2;
    const double foot = 47000, top = units::nearest(units::Series::e12, foot * (rail - wanted) / wanted);
    html +=
        QStringLiteral("<p>%1</p>")
            .arg(tr("To lift the heaters by about half of that, %1: %2 from the first rail and 47k to ground, with 22 "
                    "\u00b5F across the lower one, give %3. A heater-elevation lane joins it to the heaters' foot.")
                     .arg(read(wanted, Unit::volt, 2), QString::fromStdString(units::schematic(top, Unit::ohm)),
                          read(rail * foot / (foot + top), Unit::volt, 2)));
  }
  // Mains at its ends, the heaters included.
  lines.clear();
  for (const double share : {0.9, 1.0, 1.1}) {
    auto design = *now->circuit->design;
    for (const auto& part : amp::resolveParts(design, session_.library()))
      if (part.part->kind == amp::PartKind::mains)
        design =
            amp::withChanges(design, session_.library(), {{part.name, "value", part.value(), share * part.value()}});
    const auto circuit = amp::compile(design, session_.library());
    const auto idle =
        circuit ? predict::predictSupplyIdle(*circuit, now->point.supply.get()) : tl::unexpected(circuit.error());
    if (!idle) continue;
    const auto at = predict::readSupply(*circuit, session_.library(), *idle);
    QStringList line{read(circuit->supply.volts, Unit::volt),
                     read(idle->meanVolts(predict::mainRails(*circuit).fed), Unit::volt)};
    for (const auto& h : at.heaters)
      line << read(h.rmsVolts, Unit::volt);
    lines.push_back(line);
  }
  QStringList head{tr("mains at \u221210, 0, +10 %"), tr("first rail")};
  for (const auto& h : report.heaters)
    head << QString::fromStdString(h.part);
  table(head, lines);
  budgetsView_->setHtml(html);
}

void SupplyPage::showSafety() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setObjectName(QStringLiteral("safety"));
  const auto& safety = audit::safetyText();
  dialog->setWindowTitle(QString::fromStdString(safety.title));
  auto* column = new QVBoxLayout(dialog);
  for (const auto& paragraph : safety.paragraphs) {
    auto* text = new QLabel(QString::fromStdString(paragraph));
    text->setWordWrap(true);
    column->addWidget(text);
  }
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
  connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::close);
  column->addWidget(buttons);
  dialog->resize(520, 380);
  dialog->open();
}

void SupplyPage::exportPlot() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export the picture"), QStringLiteral("supply.svg"),
                                   tr("Scalable picture (*.svg);;Page (*.pdf);;Picture (*.png);;Figures (*.csv)"));
  if (path.isEmpty()) return;
  if (const QString problem = plot_->exportTo(path); !problem.isEmpty()) Q_EMIT failed(problem);
}

} // namespace vinegar::app
