#include "window/main_window.h"

#include "amp/drawing.h"
#include "drawer/drawer.h"
#include "pages/log_page.h"
#include "pages/supply_page.h"
#include "pages/voice_page.h"
#include "plots/response_plot.h"
#include "run/run_view.h"
#include "theme/theme.h"
#include "window/head_strip.h"
#include "window/ink_dialog.h"
#include "window/notices.h"
#include "window/vitals.h"

#include <QAction>
#include <QActionGroup>
#include <QApplication>
#include <QButtonGroup>
#include <QCloseEvent>
#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLineEdit>
#include <QLocale>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPdfWriter>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>
#include <QScreen>
#include <QSplitter>
#include <QStackedWidget>
#include <QSvgGenerator>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

/// The document's own order of work; a page appears when it exists.
const QStringList pageNames{QStringLiteral("Supply"), QStringLiteral("Voice"), QStringLiteral("Log")};

QString voltsText(double volts) {
  return std::abs(volts) < 5e-3 ? QStringLiteral("0 V")
                                : QString::fromStdString(units::reading(volts, units::Unit::volt));
}

} // namespace

MainWindow::MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder)
    : library_(library), dataFolder_(dataFolder), settings_(Settings::load()), session_(library, recoveryFolder),
      predictor_(library) {
  applyTheme(
      settings_.theme); // before there are widgets: a font set later does not reach those that a style sheet dresses
  setAcceptDrops(true);
  setMinimumSize(1000, 560);
  resize(1280, 800);
  auto* centre = new QWidget;
  auto* column = new QVBoxLayout(centre);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  head_ = new HeadStrip(session_);
  column->addWidget(head_);
  notices_ = new Notices;
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
  supply_ = new SupplyPage(session_);
  voice_ = new VoicePage(session_);
  log_ = new LogPage(session_);
  pages_->addWidget(supply_);
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
  connect(run_, &RunView::nameTyped, head_, &HeadStrip::startFind);
  connect(head_, &HeadStrip::inkWanted, this, &MainWindow::inkIt);
  connect(head_, &HeadStrip::nextMarkWanted, this, &MainWindow::selectNextMark);
  connect(head_, &HeadStrip::findWanted, this, &MainWindow::find);
  connect(head_, &HeadStrip::themeWanted, this,
          [this] { setTheme(theme().name == lamp().name ? vellum().name : lamp().name); });
  connect(&predictor_, &Predictor::answered, this, &MainWindow::display);
  connect(voice_, &VoicePage::spanChanged, this, &MainWindow::ask);
  connect(voice_, &VoicePage::failed, this, [this](const QString& m) { notify(m, true); });
  connect(supply_, &SupplyPage::failed, this, [this](const QString& m) { notify(m, true); });
  connect(supply_, &SupplyPage::partWanted, this, [this](const QString& part) { selectPart(part.toStdString()); });
  connect(supply_, &SupplyPage::findingsChanged, this, [this] { showStressed(); });
  connect(log_, &LogPage::failed, this, [this](const QString& m) { notify(m, true); });
  connect(vitals_, &Vitals::pageWanted, this, &MainWindow::showPage);
  connect(vitals_, &Vitals::partWanted, this, [this](const QString& part) { selectPart(part.toStdString()); });

  if (!settings_.geometry.isEmpty()) restoreGeometry(settings_.geometry);
  run_->setVisible(settings_.runShown);
  setTheme(settings_.theme);
  showPage(pageNames.contains(settings_.page) ? settings_.page : QStringLiteral("Voice"));
  documentChanged();
  run_->setFocus();
}

MainWindow::~MainWindow() = default;

QWidget* MainWindow::buildRail() {
  auto* rail = new QWidget;
  rail->setObjectName(QStringLiteral("rail"));
  rail->setAttribute(Qt::WA_StyledBackground);
  rail->setFixedWidth(96);
  auto* column = new QVBoxLayout(rail);
  column->setContentsMargins(0, 8, 0, 8);
  column->setSpacing(2);
  rail_ = new QButtonGroup(this);
  const QStringList questions{tr("What voltages will I get?"), tr("What will it sound like?"),
                              tr("What did I change and why?")};
  const QStringList titles{tr("Supply"), tr("Voice"), tr("Log")};
  for (int i = 0; i < pageNames.size(); ++i) {
    auto* button = new QPushButton(titles[i]);
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
  head_->setMenu(menu);
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
  add(menu, tr("Print the run\u2026"), QKeySequence::Print, [this] { printRun(); });
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
  shortcut(QStringLiteral("Ctrl+K"), [this] { head_->startFind(); });
  shortcut(QStringLiteral("Ctrl+I"), [this] { inkIt(); });
  shortcut(QStringLiteral("Ctrl+Backspace"),
           [this] { session_.edit(tr("rub out all"), [](amp::Document& d) { amp::rubOut(d); }); });
  shortcut(QStringLiteral("F10"), [this] { head_->showMenu(); });
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
  const bool dark = name == lamp().name;
  head_->setThemeButton(dark ? tr("Vellum") : tr("Lamp"),
                        dark ? tr("Change to the light theme") : tr("Change to the dark theme"));
  supply_->restyle();
  voice_->restyle();
  log_->restyle();
  run_->viewport()->update();
}

bool MainWindow::idle() const { return predictor_.idle() && log_->idle() && supply_->idle(); }

void MainWindow::documentChanged() {
  head_->refresh();
  updateActions();
  drawRun();
  if (!selected_.empty() && drawing_ && !drawing_->part(selected_)) selectPart({});
  updateFindList();
  voice_->refresh();
  log_->refresh();
  drawer_->refresh();
  ask();
}

void MainWindow::updateActions() {
  undo_->setEnabled(session_.canUndo());
  undo_->setText(session_.canUndo() ? tr("Undo %1").arg(session_.undoName()) : tr("Undo"));
  redo_->setEnabled(session_.canRedo());
  redo_->setText(session_.canRedo() ? tr("Redo %1").arg(session_.redoName()) : tr("Redo"));
  setWindowTitle(QString::fromStdString(session_.document().ink.name) +
                 (session_.modified() ? QStringLiteral(" *") : QString()) + QStringLiteral(" \u2013 Vinegar"));
}

void MainWindow::drawRun() {
  // Values do not move parts; only what is fitted, how sections and switches stand does.
  auto design = session_.pencilled();
  std::map<std::string, double> positions;
  for (const auto& part : session_.inkParts())
    if (part.part->kind == amp::PartKind::selector) positions[part.knob] = amp::knobOf(design, part);
  design.knobs = positions;
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

void MainWindow::ask() { predictor_.ask(session_.document(), voice_->from(), voice_->to(), selected_); }

void MainWindow::display(const Shown& shown) {
  shown_ = shown;
  showRunReadings(shown);
  supply_->display(shown);
  voice_->display(shown);
  drawer_->display(shown);
  vitals_->display(shown, supplyProblems());
}

void MainWindow::showRunReadings(const Shown& shown) {
  std::map<std::string, InkAndPencil> labels, volts;
  for (const auto& part : session_.inkParts())
    labels[part.name].ink = QString::fromStdString(part.label());
  for (const auto& part : session_.pencilledParts()) {
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
  if (shown.now()) {
    for (const auto& finding : (*shown.now())->vitals.findings)
      stressed.insert(finding.place);
    for (const auto& finding : supply_->supplyFindings())
      stressed.insert(finding.part);
  } else {
    stressed.insert(shown.now().error().place);
  }
  run_->setReadings(std::move(labels), std::move(volts), std::move(stressed));
}

std::vector<Problem> MainWindow::supplyProblems() const {
  std::vector<Problem> problems;
  for (const auto& finding : supply_->supplyFindings())
    problems.push_back({finding.part, finding.what});
  return problems;
}

void MainWindow::showStressed() {
  showRunReadings(shown_);
  drawer_->setFindings(supply_->supplyFindings());
  vitals_->display(shown_, supplyProblems());
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
  for (const auto& part : session_.inkParts())
    entries << QStringLiteral("%1  %2").arg(QString::fromStdString(part.name),
                                            QString::fromStdString(library_.role(part.part->role).title));
  head_->setFindEntries(entries);
}

void MainWindow::find(const QString& text) {
  const QString wanted = text.section(QStringLiteral("  "), 0, 0).trimmed();
  QString found;
  for (const auto& page : pageNames)
    if (page.compare(wanted, Qt::CaseInsensitive) == 0) {
      showPage(page);
      found = page;
    }
  for (const auto& part : session_.inkParts())
    if (found.isEmpty() && QString::fromStdString(part.name).compare(wanted, Qt::CaseInsensitive) == 0) {
      found = QString::fromStdString(part.name);
      selectPart(part.name);
      run_->setFocus();
    }
  if (found.isEmpty()) {
    if (!wanted.isEmpty()) notify(tr("There is no part or page \u201c%1\u201d.").arg(wanted));
    return;
  }
  head_->clearFind();
}

void MainWindow::selectNextMark() {
  const auto& changes = session_.document().sheet().changes;
  if (changes.empty()) return;
  std::size_t next = 0;
  for (std::size_t i = 0; i < changes.size(); ++i)
    if (changes[i].part == selected_) next = (i + 1) % changes.size();
  selectPart(changes[next].part);
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
  const QString one = tr("One page (*.pdf)"), several = tr("Several pages (*.pdf)");
  QString kind = one;
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Export the run"), QStringLiteral("run.pdf"),
      QStringList{one, several, tr("Scalable picture (*.svg)"), tr("Picture (*.png)")}.join(QStringLiteral(";;")),
      &kind);
  if (!path.isEmpty()) exportRunTo(path, kind == several ? Pages::several : Pages::one);
}

bool MainWindow::exportRunTo(const QString& path, Pages pages) {
  const QSizeF grid = run_->drawingSize();
  const QString ending = QFileInfo(path).suffix().toLower();
  bool written = false;
  QPainter painter;
  if (ending == QLatin1String("pdf")) {
    QPdfWriter pdf(path);
    pdf.setPageSize(QPageSize(pages == Pages::one ? QPageSize::A3 : QPageSize::A4));
    written = run_->paintPages(pdf, runTitle(), pages);
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
  return written;
}

QString MainWindow::runTitle() const {
  const auto& document = session_.document();
  const auto name = QString::fromStdString(document.ink.name);
  return document.revision() == 0 ? name : tr("%1, revision %2").arg(name).arg(document.revision());
}

void MainWindow::printRun() {
  QPrinter printer(QPrinter::HighResolution);
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  if (!run_->paintPages(printer, runTitle(), Pages::several))
    notify(tr("The printer could not be started; try another, or export to a file."), true);
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

void MainWindow::notify(const QString& message, bool danger) { notices_->add(message, danger); }

void MainWindow::offerRecovery() {
  for (const auto& copy : session_.recoverable())
    notices_->add(tr("Unsaved work on \u201c%1\u201d from %2 was found; the program did not end properly.")
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

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const auto urls = event->mimeData()->urls();
  if (!urls.isEmpty() && urls.front().isLocalFile() && mayDiscard()) openFile(urls.front().toLocalFile());
}

} // namespace vinegar::app
