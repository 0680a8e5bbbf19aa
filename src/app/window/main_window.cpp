#include "window/main_window.h"

#include "amp/drawing.h"
#include "drawer/drawer.h"
#include "pages/log_page.h"
#include "pages/voice_page.h"
#include "plots/response_plot.h"
#include "run/run_view.h"
#include "theme/theme.h"
#include "window/ink_dialog.h"
#include "window/vitals.h"

#include <QAction>
#include <QActionGroup>
#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QCompleter>
#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QLocale>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPdfWriter>
#include <QPushButton>
#include <QScreen>
#include <QSplitter>
#include <QStackedWidget>
#include <QStringListModel>
#include <QStyle>
#include <QSvgGenerator>
#include <QToolButton>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

constexpr int mostSheets = 4;
constexpr int responsePoints = 300;

/// The document's own order of work; a page appears when it exists.
const QStringList pageNames{QStringLiteral("Voice"), QStringLiteral("Log")};

QString voltsText(double volts) {
  return std::abs(volts) < 5e-3 ? QStringLiteral("0 V")
                                : QString::fromStdString(units::reading(volts, units::Unit::volt));
}

} // namespace

/// What the worker keeps between requests. Only the worker touches it, one request at a time.
struct MainWindow::Memory {
  predict::Warmth inkWarmth;
  std::map<std::size_t, predict::Warmth> sheetWarmth;
  amp::Design inkDesign;
  predict::OverviewQuestion inkQuestion;
  std::optional<Shown::Answer> ink;
};

MainWindow::MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder)
    : library_(library), dataFolder_(dataFolder), settings_(Settings::load()), session_(library, recoveryFolder),
      memory_(std::make_shared<Memory>()) {
  setAcceptDrops(true);
  setMinimumSize(1000, 560);
  resize(1280, 800);
  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(buildHead());
  notices_ = new QWidget;
  auto* noticeColumn = new QVBoxLayout(notices_);
  noticeColumn->setContentsMargins(0, 0, 0, 0);
  noticeColumn->setSpacing(0);
  column->addWidget(notices_);
  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  middle->addWidget(buildRail());
  splitter_ = new QSplitter(Qt::Vertical);
  splitter_->setChildrenCollapsible(false);
  splitter_->setHandleWidth(3);
  run_ = new RunView;
  run_->setMinimumHeight(120);
  run_->zoomTo(settings_.runZoom);
  pages_ = new QStackedWidget;
  pages_->setObjectName(QStringLiteral("pageStack"));
  voice_ = new VoicePage(session_);
  log_ = new LogPage(session_);
  pages_->addWidget(voice_);
  pages_->addWidget(log_);
  splitter_->addWidget(run_);
  splitter_->addWidget(pages_);
  splitter_->setStretchFactor(0, 0);
  splitter_->setStretchFactor(1, 1);
  middle->addWidget(splitter_, 1);
  drawer_ = new Drawer(session_);
  middle->addWidget(drawer_);
  column->addLayout(middle, 1);
  vitals_ = new Vitals;
  column->addWidget(vitals_);
  setCentralWidget(centre);
  buildMenu();

  connect(&session_, &Session::changed, this, &MainWindow::documentChanged);
  connect(&session_, &Session::safetyFailed, this, [this](const QString& m) { notify(m, true); });
  connect(run_, &RunView::partSelected, this, [this](const QString& name) { selectPart(name.toStdString()); });
  connect(run_, &RunView::nameTyped, this, [this](const QString& text) {
    find_->setFocus(Qt::ShortcutFocusReason);
    find_->setText(text);
    find_->completer()->setCompletionPrefix(text);
    find_->completer()->complete();
  });
  connect(voice_, &VoicePage::spanChanged, this, &MainWindow::ask);
  connect(voice_, &VoicePage::failed, this, [this](const QString& m) { notify(m, true); });
  connect(log_, &LogPage::failed, this, [this](const QString& m) { notify(m, true); });
  connect(vitals_, &Vitals::pageWanted, this, &MainWindow::showPage);
  connect(vitals_, &Vitals::partWanted, this, [this](const QString& part) { selectPart(part.toStdString()); });

  const std::vector<QWidget*> order{menuButton_, sheet_, marks_, rubOut_, ink_, find_, themeButton_};
  for (std::size_t i = 0; i + 1 < order.size(); ++i)
    setTabOrder(order[i], order[i + 1]);
  if (!settings_.geometry.isEmpty()) restoreGeometry(settings_.geometry);
  run_->setVisible(settings_.runShown);
  setTheme(settings_.theme);
  showPage(pageNames.contains(settings_.page) ? settings_.page : pageNames.front());
  documentChanged();
  run_->setFocus();
}

MainWindow::~MainWindow() = default;

QWidget* MainWindow::buildHead() {
  auto* head = new QWidget;
  head->setObjectName(QStringLiteral("head"));
  head->setAttribute(Qt::WA_StyledBackground);
  head->setFixedHeight(46);
  auto* row = new QHBoxLayout(head);
  row->setContentsMargins(10, 0, 14, 0);
  row->setSpacing(9);
  menuButton_ = new QToolButton;
  menuButton_->setText(tr("Menu"));
  menuButton_->setToolTip(tr("Files, editing and view (F10)"));
  menuButton_->setPopupMode(QToolButton::InstantPopup);
  menuButton_->setFocusPolicy(Qt::StrongFocus);
  row->addWidget(menuButton_);
  name_ = new QLabel;
  name_->setFont(textFont(13.5, QFont::DemiBold));
  name_->setObjectName(QStringLiteral("designName"));
  row->addWidget(name_);
  revision_ = new QLabel;
  revision_->setProperty("quiet", true);
  row->addWidget(revision_);
  row->addSpacing(10);
  sheet_ = new QToolButton;
  sheet_->setPopupMode(QToolButton::InstantPopup);
  sheet_->setFocusPolicy(Qt::StrongFocus);
  sheet_->setObjectName(QStringLiteral("sheet"));
  sheet_->setToolTip(tr("Pencil sheets: up to four are shown at once"));
  sheetMenu_ = new QMenu(sheet_);
  sheet_->setMenu(sheetMenu_);
  connect(sheetMenu_, &QMenu::aboutToShow, this, &MainWindow::fillSheetMenu);
  row->addWidget(sheet_);
  marks_ = new QPushButton;
  marks_->setObjectName(QStringLiteral("marks"));
  marks_->setToolTip(tr("Selects the next pencilled part"));
  row->addWidget(marks_);
  rubOut_ = new QPushButton(tr("Rub out"));
  rubOut_->setObjectName(QStringLiteral("rubOut"));
  rubOut_->setToolTip(tr("Drop all pencil marks on this sheet (Ctrl+Backspace)"));
  row->addWidget(rubOut_);
  ink_ = new QPushButton(tr("Ink it\u2026"));
  ink_->setObjectName(QStringLiteral("inkIt"));
  ink_->setProperty("strong", true);
  ink_->setToolTip(tr("Make the pencil the new ink, with a reason for the log (Ctrl+I)"));
  row->addWidget(ink_);
  row->addStretch(0);
  find_ = new QLineEdit;
  find_->setObjectName(QStringLiteral("find"));
  find_->setPlaceholderText(tr("Find part or page   Ctrl+K"));
  find_->setAccessibleName(tr("Find a part or a page"));
  find_->setMinimumWidth(110);
  find_->setMaximumWidth(210);
  find_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  findModel_ = new QStringListModel(this);
  auto* completer = new QCompleter(findModel_, this);
  completer->setCaseSensitivity(Qt::CaseInsensitive);
  completer->setFilterMode(Qt::MatchContains);
  find_->setCompleter(completer);
  row->addWidget(find_);
  themeButton_ = new QToolButton;
  themeButton_->setObjectName(QStringLiteral("theme"));
  themeButton_->setFocusPolicy(Qt::StrongFocus);
  row->addWidget(themeButton_);

  connect(rubOut_, &QPushButton::clicked, this,
          [this] { session_.edit(tr("rub out all"), [](amp::Document& d) { amp::rubOut(d); }); });
  connect(ink_, &QPushButton::clicked, this, &MainWindow::inkIt);
  connect(marks_, &QPushButton::clicked, this, [this] {
    const auto& changes = session_.document().sheet().changes;
    if (changes.empty()) return;
    std::size_t next = 0;
    for (std::size_t i = 0; i < changes.size(); ++i)
      if (changes[i].part == selected_) next = (i + 1) % changes.size();
    selectPart(changes[next].part);
  });
  connect(find_, &QLineEdit::returnPressed, this, [this] { find(find_->text()); });
  connect(completer, qOverload<const QString&>(&QCompleter::activated), this,
          [this](const QString& text) { find(text); });
  connect(themeButton_, &QToolButton::clicked, this,
          [this] { setTheme(theme().name == lamp().name ? vellum().name : lamp().name); });
  return head;
}

QWidget* MainWindow::buildRail() {
  auto* rail = new QWidget;
  rail->setObjectName(QStringLiteral("rail"));
  rail->setAttribute(Qt::WA_StyledBackground);
  rail->setFixedWidth(96);
  auto* column = new QVBoxLayout(rail);
  column->setContentsMargins(0, 8, 0, 8);
  column->setSpacing(2);
  rail_ = new QButtonGroup(this);
  const QStringList questions{tr("What will it sound like?"), tr("What did I change and why?")};
  for (int i = 0; i < pageNames.size(); ++i) {
    auto* button = new QPushButton(i == 0 ? tr("Voice") : tr("Log"));
    button->setCheckable(true);
    button->setToolTip(questions[i] + QStringLiteral(" (Alt+%1)").arg(i + 1));
    button->setShortcut(QKeySequence(QStringLiteral("Alt+%1").arg(i + 1)));
    button->setObjectName(QStringLiteral("page ") + pageNames[i]);
    rail_->addButton(button, i);
    column->addWidget(button);
  }
  column->addStretch();
  connect(rail_, &QButtonGroup::idClicked, this, [this](int id) { showPage(pageNames[id]); });
  return rail;
}

void MainWindow::buildMenu() {
  auto* menu = new QMenu(this);
  menuButton_->setMenu(menu);
  const auto add = [this](QMenu* to, const QString& text, const QKeySequence& keys, auto act) {
    auto* action = to->addAction(text);
    action->setShortcut(keys);
    addAction(action);
    connect(action, &QAction::triggered, this, act);
    return action;
  };
  add(menu, tr("New design"), QKeySequence::New, [this] {
    if (!mayDiscard()) return;
    selected_.clear();
    voice_->startAfresh();
    session_.startEmpty();
  });
  add(menu, tr("Open\u2026"), QKeySequence::Open, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("Open a design"), QFileInfo(session_.path()).path(),
                                                      tr("Vinegar designs (*.vinegar);;All files (*)"));
    if (!path.isEmpty() && mayDiscard()) openFile(path);
  });
  auto* samples = menu->addMenu(tr("Open a sample"));
  for (const auto& file : QDir(dataFolder_ + QStringLiteral("/samples"))
                              .entryInfoList({QStringLiteral("*.vinegar")}, QDir::Files, QDir::Name)) {
    QString title = file.completeBaseName().replace(QLatin1Char('-'), QLatin1Char(' '));
    for (int i = 0; i < title.size(); ++i)
      if (i == 0 || title[i - 1] == QLatin1Char(' ')) title[i] = title[i].toUpper();
    add(samples, title, {}, [this, id = file.completeBaseName()] {
      if (mayDiscard()) openSample(id);
    });
  }
  recentMenu_ = menu->addMenu(tr("Recent"));
  connect(recentMenu_, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
  menu->addSeparator();
  add(menu, tr("Save"), QKeySequence::Save, [this] { save(); });
  add(menu, tr("Save as\u2026"), QKeySequence::SaveAs, [this] { saveAs(); });
  add(menu, tr("Rename the amplifier\u2026"), {}, [this] {
    bool accepted = false;
    const QString name = QInputDialog::getText(this, tr("Rename"), tr("Name of the amplifier"), QLineEdit::Normal,
                                               QString::fromStdString(session_.document().ink.name), &accepted);
    if (accepted && !name.trimmed().isEmpty())
      session_.edit(tr("rename"), [&](amp::Document& d) { d.ink.name = name.trimmed().toStdString(); });
  });
  add(menu, tr("Export the run\u2026"), {}, [this] { exportRun(); });
  menu->addSeparator();
  undo_ = add(menu, tr("Undo"), QKeySequence::Undo, [this] { session_.undo(); });
  redo_ = add(menu, tr("Redo"), {}, [this] { session_.redo(); });
  redo_->setShortcuts({QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))});
  menu->addSeparator();
  auto* view = menu->addMenu(tr("View"));
  runAction_ = add(view, tr("Show the run"), QKeySequence(QStringLiteral("Ctrl+R")), [this] {
    settings_.runShown = runAction_->isChecked();
    run_->setVisible(settings_.runShown);
  });
  runAction_->setCheckable(true);
  runAction_->setChecked(settings_.runShown);
  auto* zigzag = view->addAction(tr("Draw resistors as zigzags"));
  zigzag->setCheckable(true);
  zigzag->setChecked(settings_.resistors == ResistorStyle::zigzag);
  connect(zigzag, &QAction::toggled, this, [this](bool on) {
    settings_.resistors = on ? ResistorStyle::zigzag : ResistorStyle::box;
    drawing_ = nullptr;
    drawRun();
    ask();
  });
  add(view, tr("Run at its own size"), QKeySequence(QStringLiteral("Ctrl+0")), [this] { run_->zoomTo(1); });
  auto* scales = view->addMenu(tr("Size of everything"));
  auto* scaleGroup = new QActionGroup(this);
  for (const double scale : {1.0, 1.25, 1.5, 1.75, 2.0}) {
    auto* action = scales->addAction(QStringLiteral("%1 %").arg(scale * 100));
    action->setCheckable(true);
    action->setChecked(std::abs(settings_.scale - scale) < 0.01);
    scaleGroup->addAction(action);
    connect(action, &QAction::triggered, this, [this, scale] {
      settings_.scale = scale;
      settings_.save();
      notify(tr("The new size is used from the next start."));
    });
  }
  menu->addSeparator();
  add(menu, tr("About Vinegar"), {}, [this] {
    auto* box = new QMessageBox(
        QMessageBox::NoIcon, tr("About Vinegar"),
        tr("Vinegar %1\nA workbench for tube amplifiers.\n\nThese circuits hold voltages that can kill, also after "
           "switch-off. Follow your local codes; leave mains wiring to a licensed person when in doubt.\n\n"
           "GPL-3.0-or-later. Fonts: Inter and JetBrains Mono, SIL Open Font License.")
            .arg(QStringLiteral(VINEGAR_VERSION)),
        QMessageBox::Close, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->open();
  });
  add(menu, tr("Quit"), QKeySequence(QStringLiteral("Ctrl+Q")), [this] { close(); });

  const auto shortcut = [this](const QString& keys, auto act) {
    auto* action = new QAction(this);
    action->setShortcut(QKeySequence(keys));
    connect(action, &QAction::triggered, this, act);
    addAction(action);
  };
  shortcut(QStringLiteral("Ctrl+K"), [this] {
    find_->setFocus(Qt::ShortcutFocusReason);
    find_->selectAll();
  });
  shortcut(QStringLiteral("Ctrl+I"), [this] { inkIt(); });
  shortcut(QStringLiteral("Ctrl+Backspace"), [this] { rubOut_->click(); });
  shortcut(QStringLiteral("F10"), [this] { menuButton_->showMenu(); });
  shortcut(QStringLiteral("F6"), [this] {
    // Around the regions: run, page, drawer.
    QWidget* focus = QApplication::focusWidget();
    if (focus == run_ || !focus)
      pages_->currentWidget()->nextInFocusChain()->setFocus();
    else if (pages_->isAncestorOf(focus)) {
      if (auto* dial = drawer_->findChild<QWidget*>(QStringLiteral("dial")); dial && dial->isVisible())
        dial->setFocus();
      else
        run_->setFocus();
    } else
      run_->setFocus();
  });
}

void MainWindow::setTheme(const QString& name) {
  settings_.theme = name;
  applyTheme(name);
  themeButton_->setText(name == lamp().name ? tr("Vellum") : tr("Lamp"));
  themeButton_->setToolTip(name == lamp().name ? tr("Change to the light theme") : tr("Change to the dark theme"));
  voice_->restyle();
  log_->restyle();
  run_->viewport()->update();
}

bool MainWindow::idle() const { return work_.idle() && log_->idle(); }

void MainWindow::documentChanged() {
  updateHead();
  drawRun();
  if (!selected_.empty() && drawing_ && !drawing_->part(selected_)) selectPart({});
  updateFindList();
  voice_->refresh();
  log_->refresh();
  drawer_->refresh();
  ask();
}

void MainWindow::updateHead() {
  const auto& document = session_.document();
  const QString name = QString::fromStdString(document.ink.name);
  name_->setText(name_->fontMetrics().elidedText(name, Qt::ElideRight, std::clamp(width() - 900, 120, 400)));
  name_->setToolTip(name);
  QString revision = document.log.empty() ? tr("first ink") : tr("ink revision %1").arg(document.revision());
  if (session_.readOnly())
    revision += QStringLiteral(" \u00b7 ") + tr("read-only");
  else if (session_.modified())
    revision += QStringLiteral(" \u00b7 ") + tr("not saved");
  revision_->setText(revision);
  const int marks = static_cast<int>(document.sheet().changes.size());
  marks_->setText(marks == 0   ? tr("no pencil marks")
                  : marks == 1 ? tr("1 pencil mark")
                               : tr("%1 pencil marks").arg(marks));
  if (marks_->property("none").toBool() != (marks == 0) || !marks_->property("none").isValid()) {
    marks_->setProperty("none", marks == 0);
    marks_->style()->unpolish(marks_);
    marks_->style()->polish(marks_);
  }
  rubOut_->setEnabled(marks > 0);
  ink_->setEnabled(marks > 0);
  sheet_->setText(sheet_->fontMetrics().elidedText(QString::fromStdString(document.sheet().name), Qt::ElideRight, 110) +
                  QStringLiteral(" \u25be"));
  undo_->setEnabled(session_.canUndo());
  undo_->setText(session_.canUndo() ? tr("Undo %1").arg(session_.undoName()) : tr("Undo"));
  redo_->setEnabled(session_.canRedo());
  redo_->setText(session_.canRedo() ? tr("Redo %1").arg(session_.redoName()) : tr("Redo"));
  setWindowTitle(name + (session_.modified() ? QStringLiteral(" *") : QString()) + QStringLiteral(" \u2013 Vinegar"));
}

void MainWindow::fillSheetMenu() {
  sheetMenu_->clear();
  const auto& document = session_.document();
  for (std::size_t i = 0; i < document.sheets.size(); ++i) {
    const auto& sheet = document.sheets[i];
    auto* action =
        sheetMenu_->addAction(tr("%1  (%2)").arg(QString::fromStdString(sheet.name)).arg(sheet.changes.size()));
    action->setCheckable(true);
    action->setChecked(i == document.activeSheet);
    connect(action, &QAction::triggered, this,
            [this, i] { session_.edit(tr("take another sheet"), [i](amp::Document& d) { d.activeSheet = i; }); });
  }
  sheetMenu_->addSeparator();
  auto* more = sheetMenu_->addAction(tr("New sheet"), this, [this] {
    session_.edit(tr("new sheet"), [](amp::Document& d) {
      d.sheets.push_back({"Sheet " + std::to_string(d.sheets.size() + 1), {}, {}});
      d.activeSheet = d.sheets.size() - 1;
    });
  });
  more->setEnabled(document.sheets.size() < mostSheets);
  sheetMenu_->addAction(tr("Rename this sheet\u2026"), this, [this] {
    bool accepted = false;
    const QString name = QInputDialog::getText(this, tr("Rename"), tr("Name of the sheet"), QLineEdit::Normal,
                                               QString::fromStdString(session_.document().sheet().name), &accepted);
    if (accepted && !name.trimmed().isEmpty())
      session_.edit(tr("rename sheet"),
                    [&](amp::Document& d) { d.sheets[d.activeSheet].name = name.trimmed().toStdString(); });
  });
  auto* remove = sheetMenu_->addAction(tr("Remove this sheet"), this, [this] {
    session_.edit(tr("remove sheet"), [](amp::Document& d) {
      d.sheets.erase(d.sheets.begin() + static_cast<std::ptrdiff_t>(d.activeSheet));
      d.activeSheet = 0;
    });
  });
  remove->setEnabled(document.sheets.size() > 1);
}

void MainWindow::drawRun() {
  // Values do not move parts; only what is fitted and how sections stand does.
  auto design = session_.pencilled();
  design.knobs.clear();
  if (drawing_ && design == drawn_) return;
  const bool sameShape = [&] {
    if (!drawing_) return false;
    auto a = design, b = drawn_;
    for (auto* d : {&a, &b})
      for (auto* use : d->sections())
        for (auto& [ref, part] : use->parts)
          std::erase_if(part.settings, [](const auto& s) { return s.first != "fitted"; });
    return a == b;
  }();
  drawn_ = design;
  if (sameShape) return;
  drawing_ = std::make_shared<const amp::Drawing>(amp::drawRun(design, library_));
  RunContent content;
  content.drawing = *drawing_;
  run_->setRun(std::move(content), settings_.resistors);
  run_->select(selected_);
  const int wanted = std::min(run_->fullHeight(), height() * 42 / 100);
  if (settings_.runShown) splitter_->setSizes({wanted, std::max(100, splitter_->height() - wanted)});
}

void MainWindow::ask() {
  struct SheetAsked {
    std::size_t index;
    QString name;
    bool active;
    amp::Design design;
  };
  const auto& document = session_.document();
  std::vector<SheetAsked> sheets;
  for (std::size_t i = 0; i < document.sheets.size(); ++i) {
    const auto& sheet = document.sheets[i];
    if (sheet.changes.empty()) continue;
    SheetAsked asked{i, QString::fromStdString(sheet.name), i == document.activeSheet,
                     amp::withChanges(document.ink, library_, sheet.changes)};
    if (asked.active)
      sheets.insert(sheets.begin(), std::move(asked));
    else if (sheets.size() < mostSheets)
      sheets.push_back(std::move(asked));
  }
  predict::OverviewQuestion question{voice_->from(), voice_->to(), circuit::logSpaced(10, 100000, responsePoints),
                                     selected_};
  work_.ask([this, memory = memory_, ink = document.ink, sheets = std::move(sheets), question,
             &library = library_]() -> LatestWins::Deliver {
    const auto predicted = [&](const amp::Design& design, predict::Warmth& warmth,
                               const predict::OverviewQuestion& q) -> Shown::Answer {
      auto overview = predict::predictOverview(design, library, q, &warmth);
      if (!overview) return tl::unexpected(overview.error());
      return std::make_shared<const predict::Overview>(std::move(*overview));
    };
    // The ink rarely changes; what was found for it is kept. Steps are wanted of what the builder is turning.
    auto inkQuestion = question;
    if (!sheets.empty() && sheets.front().active) inkQuestion.part.clear();
    const bool sameInk = memory->ink && memory->inkDesign == ink && memory->inkQuestion.from == inkQuestion.from &&
                         memory->inkQuestion.to == inkQuestion.to && memory->inkQuestion.part == inkQuestion.part;
    if (!sameInk) {
      memory->ink = predicted(ink, memory->inkWarmth, inkQuestion);
      memory->inkDesign = ink;
      memory->inkQuestion = inkQuestion;
    }
    auto shown = std::make_shared<Shown>();
    shown->ink = *memory->ink;
    shown->question = question;
    for (const auto& sheet : sheets) {
      auto own = question;
      if (!sheet.active) own.part.clear();
      shown->sheets.push_back(
          {sheet.name, sheet.active, predicted(sheet.design, memory->sheetWarmth[sheet.index], own)});
    }
    return [this, shown] { display(*shown); };
  });
}

void MainWindow::display(const Shown& shown) {
  showRunReadings(shown);
  voice_->display(shown);
  drawer_->display(shown);
  vitals_->display(shown);
}

void MainWindow::showRunReadings(const Shown& shown) {
  std::map<std::string, InkAndPencil> labels, volts;
  const auto ink = amp::resolveParts(session_.document().ink, library_);
  for (const auto& part : ink)
    labels[part.name].ink = QString::fromStdString(part.label());
  for (const auto& part : amp::resolveParts(session_.pencilled(), library_)) {
    auto& label = labels[part.name];
    label.pencil = QString::fromStdString(part.label());
    // A change that does not show in the label, a winding resistance or a taper, still marks the part.
    const bool marked =
        std::any_of(session_.document().sheet().changes.begin(), session_.document().sheet().changes.end(),
                    [&](const amp::Change& c) { return c.part == part.name; });
    if (marked && label.pencil == label.ink) label.pencil += QStringLiteral(" *");
  }
  const auto take = [&](const Shown::Answer& answer, QString InkAndPencil::*which) {
    if (!answer) return;
    const auto& circuit = *(*answer)->circuit;
    for (const auto& [key, node] : circuit.localNodes)
      if (node >= 0) volts[key].*which = voltsText((*answer)->point.volts(node));
    for (const auto& rail : circuit.rails)
      volts["rail:" + rail.name].*which = voltsText((*answer)->point.volts(rail.node));
  };
  take(shown.ink, &InkAndPencil::ink);
  if (shown.pencilled()) take(shown.now(), &InkAndPencil::pencil);
  std::set<std::string> stressed;
  if (shown.now())
    for (const auto& finding : (*shown.now())->vitals.findings)
      stressed.insert(finding.place);
  else
    stressed.insert(shown.now().error().place);
  run_->setReadings(std::move(labels), std::move(volts), std::move(stressed));
}

void MainWindow::selectPart(const std::string& name) {
  if (!name.empty() && drawing_ && !drawing_->part(name)) return;
  selected_ = name;
  run_->select(name);
  drawer_->setPart(name);
  ask();
}

void MainWindow::showPage(const QString& name) {
  const int index = static_cast<int>(pageNames.indexOf(name));
  if (index < 0) return;
  settings_.page = name;
  pages_->setCurrentIndex(index);
  rail_->button(index)->setChecked(true);
}

void MainWindow::updateFindList() {
  QStringList entries = pageNames;
  for (const auto& part : amp::resolveParts(session_.document().ink, library_))
    entries << QStringLiteral("%1  %2").arg(QString::fromStdString(part.name),
                                            QString::fromStdString(library_.role(part.part->role).title));
  if (findModel_->stringList() != entries) findModel_->setStringList(entries);
}

void MainWindow::find(const QString& text) {
  const QString wanted = text.section(QStringLiteral("  "), 0, 0).trimmed();
  QString found;
  for (const auto& page : pageNames)
    if (page.compare(wanted, Qt::CaseInsensitive) == 0) {
      showPage(page);
      found = page;
    }
  for (const auto& part : amp::resolveParts(session_.document().ink, library_))
    if (found.isEmpty() && QString::fromStdString(part.name).compare(wanted, Qt::CaseInsensitive) == 0) {
      found = QString::fromStdString(part.name);
      selectPart(part.name);
      run_->setFocus();
    }
  if (found.isEmpty()) {
    if (!wanted.isEmpty()) notify(tr("There is no part or page \u201c%1\u201d.").arg(wanted));
    return;
  }
  // The completer writes its choice into the box after this.
  QMetaObject::invokeMethod(find_, &QLineEdit::clear, Qt::QueuedConnection);
}

void MainWindow::inkIt() {
  const auto& changes = session_.document().sheet().changes;
  if (changes.empty()) return;
  QStringList lines;
  for (const auto& change : changes)
    lines << QString::fromStdString(amp::describe(change, session_.document().ink, library_));
  auto* dialog = new InkDialog(lines, this);
  connect(dialog, &InkDialog::reasonGiven, this, [this](const QString& reason) {
    const auto now = QDateTime::currentDateTime();
    const auto date = now.toOffsetFromUtc(now.offsetFromUtc()).toString(Qt::ISODate).toStdString();
    session_.edit(tr("ink"), [&](amp::Document& d) { amp::ink(d, library_, reason.toStdString(), date); });
  });
  dialog->open();
}

bool MainWindow::openFile(const QString& path) {
  const bool shipped = QFileInfo(path).absoluteFilePath().startsWith(
      QDir(dataFolder_ + QStringLiteral("/samples")).absolutePath() + QLatin1Char('/'));
  voice_->startAfresh();
  if (const auto problem = session_.open(path, shipped)) {
    notify(QString::fromStdString(problem->line()), true);
    return false;
  }
  selectPart({});
  if (!session_.note().isEmpty()) notify(session_.note());
  if (!shipped) {
    settings_.addRecent(session_.path());
    settings_.save();
  }
  return true;
}

bool MainWindow::openSample(const QString& id) {
  return openFile(dataFolder_ + QStringLiteral("/samples/") + id + QStringLiteral(".vinegar"));
}

bool MainWindow::save() {
  if (session_.path().isEmpty() || session_.readOnly()) return saveAs();
  if (const auto problem = session_.save(session_.path())) {
    notify(QString::fromStdString(problem->line()), true);
    return false;
  }
  settings_.addRecent(session_.path());
  return true;
}

bool MainWindow::saveAs() {
  const QString proposed =
      session_.path().isEmpty()
          ? QString::fromStdString(session_.document().ink.name).toLower().replace(QLatin1Char(' '), QLatin1Char('-')) +
                QStringLiteral(".vinegar")
          : session_.path();
  QString path = QFileDialog::getSaveFileName(this, tr("Save the design"), proposed, tr("Vinegar designs (*.vinegar)"));
  if (path.isEmpty()) return false;
  if (QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".vinegar");
  if (const auto problem = session_.save(path)) {
    notify(QString::fromStdString(problem->line()), true);
    return false;
  }
  settings_.addRecent(session_.path());
  return true;
}

bool MainWindow::mayDiscard() {
  if (!session_.modified()) return true;
  const auto answer = QMessageBox::question(
      this, tr("Not saved"),
      tr("%1 has changes that are not saved.").arg(QString::fromStdString(session_.document().ink.name)),
      QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Save);
  if (answer == QMessageBox::Save) return save();
  return answer == QMessageBox::Discard;
}

void MainWindow::exportRun() {
  const QString path = QFileDialog::getSaveFileName(this, tr("Export the run"), QStringLiteral("run.pdf"),
                                                    tr("Page (*.pdf);;Scalable picture (*.svg);;Picture (*.png)"));
  if (path.isEmpty()) return;
  const QSizeF grid = run_->drawingSize();
  const QString ending = QFileInfo(path).suffix().toLower();
  bool written = false;
  QPainter painter;
  if (ending == QLatin1String("pdf")) {
    QPdfWriter pdf(path);
    pdf.setPageSize(QPageSize(QPageSize::A3));
    pdf.setPageOrientation(QPageLayout::Landscape);
    written = painter.begin(&pdf);
    if (written) run_->paintOnto(painter, QRectF(0, 0, pdf.width(), pdf.height()));
  } else if (ending == QLatin1String("svg")) {
    QSvgGenerator svg;
    svg.setFileName(path);
    svg.setViewBox(QRectF({}, grid * 8));
    svg.setSize((grid * 8).toSize());
    written = painter.begin(&svg);
    if (written) run_->paintOnto(painter, QRectF({}, grid * 8));
    painter.end();
  } else {
    QImage image((grid * 14).toSize(), QImage::Format_ARGB32);
    image.fill(theme().ground);
    painter.begin(&image);
    run_->paintOnto(painter, image.rect());
    painter.end();
    written = image.save(path);
  }
  if (!written) notify(tr("%1: could not be written; is the folder there and is there room?").arg(path), true);
}

void MainWindow::fillRecent() {
  recentMenu_->clear();
  for (const auto& path : settings_.recent) {
    auto* action = recentMenu_->addAction(QFileInfo(path).fileName(), this, [this, path] {
      if (mayDiscard()) openFile(path);
    });
    action->setToolTip(path);
    action->setEnabled(QFileInfo::exists(path));
  }
  if (settings_.recent.isEmpty()) recentMenu_->addAction(tr("Nothing yet"))->setEnabled(false);
}

void MainWindow::notify(const QString& message, bool danger) { addNotice(message, danger, {}); }

void MainWindow::addNotice(const QString& message, bool danger,
                           const std::vector<std::pair<QString, std::function<void()>>>& choices) {
  for (auto* old : notices_->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly))
    if (old->property("message").toString() == message) return;
  auto* notice = new QWidget;
  notice->setObjectName(danger ? QStringLiteral("noticeDanger") : QStringLiteral("notice"));
  notice->setAttribute(Qt::WA_StyledBackground);
  notice->setProperty("message", message);
  auto* row = new QHBoxLayout(notice);
  row->setContentsMargins(14, 6, 14, 6);
  auto* text = new QLabel((danger ? QStringLiteral("\u26a0 ") : QString()) + message);
  text->setWordWrap(true);
  text->setTextInteractionFlags(Qt::TextSelectableByMouse);
  row->addWidget(text, 1);
  for (const auto& [label, act] : choices) {
    auto* button = new QPushButton(label);
    row->addWidget(button);
    connect(button, &QPushButton::clicked, notice, [notice, act = act] {
      notice->deleteLater();
      act();
    });
  }
  auto* close = new QPushButton(choices.empty() ? tr("Close") : tr("Later"));
  row->addWidget(close);
  connect(close, &QPushButton::clicked, notice, &QWidget::deleteLater);
  notices_->layout()->addWidget(notice);
}

void MainWindow::offerRecovery() {
  for (const auto& copy : session_.recoverable())
    addNotice(tr("Unsaved work on \u201c%1\u201d from %2 was found; the program did not end properly.")
                  .arg(copy.name, copy.when),
              false,
              {{tr("Recover"),
                [this, copy] {
                  if (!mayDiscard()) return offerRecovery();
                  voice_->startAfresh();
                  if (const auto problem = session_.recover(copy))
                    notify(QString::fromStdString(problem->line()), true);
                }},
               {tr("Discard"), [copy] { Session::discard(copy); }}});
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!mayDiscard()) return event->ignore();
  settings_.geometry = saveGeometry();
  settings_.runZoom = run_->zoom();
  settings_.save();
  event->accept();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  updateHead();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const auto urls = event->mimeData()->urls();
  if (!urls.isEmpty() && urls.front().isLocalFile() && mayDiscard()) openFile(urls.front().toLocalFile());
}

} // namespace vinegar::app
