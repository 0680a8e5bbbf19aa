#include "pages/supply_page.h"

#include "drawer/figure_table.h"
#include "pages/choices_view.h"
#include "pages/supply_views.h"
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
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {
namespace {

using units::Unit;

constexpr int summaryWidth = 236;
QString read(double value, Unit unit, int digits = 3) { return readValue(value, unit, digits); }

const predict::Overview* overviewOf(const Shown::Answer& answer) { return answer ? answer->get() : nullptr; }

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
    view->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
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
  findingsSoon_ = new QTimer(this);
  findingsSoon_->setSingleShot(true);
  findingsSoon_->setInterval(80);
  connect(findingsSoon_, &QTimer::timeout, this, &SupplyPage::askFindings);
  showView(cycles);
}

SupplyPage::~SupplyPage() {
  if (cancel_) *cancel_ = true;
}

bool SupplyPage::idle() const {
  return !findingsSoon_->isActive() && viewWork_.idle() && findingsWork_.idle() && choicesView_->idle();
}

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
    wanted = {tr("tubes out"), tr("tubes in")}; // the slower, and so the safer, first
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
  findingsSoon_->start();
  if (isVisible()) askView();
}

void SupplyPage::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  askView();
}

void SupplyPage::restyle() {
  plot_->restyle();
  if (view_ == budgets) askBudgets();
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
  auto picture = cyclesPicture(overviewOf(shown_.ink), shown_.pencilled() ? overviewOf(shown_.now()) : nullptr,
                               source_->currentText().section(QLatin1Char(' '), -1));
  if (!picture.curves.empty()) return plot_->show(std::move(picture));
  if (shown_.now())
    plot_->say(tr("This design has no mains: it runs from a bench supply. Start its supply with a transformer and "
                  "rectifier section to see cycles."),
               false);
  else
    plot_->say(tr("No answer: %1").arg(QString::fromStdString(shown_.now().error().line())), true);
}

void SupplyPage::askView() {
  if (cancel_) *cancel_ = true;
  showProgress(-1);
  if (view_ == cycles) return showCycles();
  if (view_ == findings) return showFindings();
  if (view_ == budgets) return askBudgets();
  const auto sides = designs();
  if (view_ == choices) return choicesView_->ask(sides.empty() ? nullptr : sides.back().second);
  if (sides.empty()) return showCycles();
  cancel_ = std::make_shared<std::atomic<bool>>(false);
  const GoOn goOn = [cancel = cancel_, this](double share) {
    QMetaObject::invokeMethod(
        this,
        [this, cancel, share] {
          if (!*cancel) showProgress(share);
        },
        Qt::QueuedConnection);
    return !cancel->load();
  };
  const bool tubesIn = source_->currentIndex() == 1;
  const auto from = static_cast<predict::SwitchOnQuestion::From>(std::max(from_->currentIndex(), 0));
  viewWork_.ask([this, sides, view = view_, goOn, tubesIn, from, fromText = from_->currentText(),
                 &library = session_.library()]() -> LatestWins::Deliver {
    auto picture = view == switchOn    ? switchOnPicture(sides, library, from, fromText, goOn)
                   : view == discharge ? dischargePicture(sides, library, tubesIn)
                                       : regulationPicture(sides, library, goOn);
    return [this, picture = std::move(picture), view]() mutable {
      showProgress(-1);
      if (view != view_) return;
      if (picture) return plot_->show(std::move(*picture));
      const bool cancelled = picture.error().message == "cancelled";
      plot_->say(cancelled ? tr("Cancelled. Choose the view again to start anew.")
                           : QString::fromStdString(picture.error().line()),
                 !cancelled);
    };
  });
}

void SupplyPage::askBudgets() {
  std::shared_ptr<const predict::Overview> overview = shown_.now() ? *shown_.now() : nullptr;
  if (!overview || !overview->point.supply) return budgetsView_->setHtml(tr("This design has no mains."));
  viewWork_.ask([this, overview, colours = textColours(), &library = session_.library()]() -> LatestWins::Deliver {
    return [this, html = budgetsText(*overview, library, colours)] { budgetsView_->setHtml(html); };
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
  QString unchecked;
  if (!shown_.now())
    unchecked = tr("Nothing was checked, since this design has no answer. %1")
                    .arg(QString::fromStdString(shown_.now().error().line()));
  else if (const auto* now = overviewOf(shown_.now()); !now || !now->point.supply)
    unchecked = tr("Nothing was checked: this design has no mains.");
  findingsView_->setHtml(findingsText(findings_, unchecked, textColours()));
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
