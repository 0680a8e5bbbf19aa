#include "window/main_window.h"

#include "amp/drawing/drawing.h"
#include "drawer/drawer.h"
#include "files/phrases.h"
#include "amp/acts/numbering.h"
#include "run/sheet_dialog.h"
#include "run/run_readings.h"
#include "run/run_view.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/readings.h"
#include "window/actions.h"
#include "window/head_strip.h"
#include "window/ink_dialog.h"
#include "window/notices.h"
#include "window/page_stack.h"
#include "window/vitals.h"

#include <QAction>
#include <QActionGroup>
#include <QApplication>
#include <QCloseEvent>
#include <QDateTime>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QScreen>
#include <QSplitter>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

std::shared_ptr<const predict::Sound> loudest(const QString& dataFolder) {
  const auto chord = files::readSound(dataFolder.toStdString(), "chord", "guitar");
  return chord ? *chord : nullptr; // the findings say that it is not known
}

constexpr int titleBarRoom = 40; ///< more than any desktop's takes
constexpr int pageShare = 57;    ///< percent of the height between head and footer
/// What notices are about that go by themselves when it is mended.
const QString unsafe = QStringLiteral("safety copy"), unsaved = QStringLiteral("save");

/// ISO 8601, local time with its offset.
std::string dateNow() {
  const auto now = QDateTime::currentDateTime();
  return now.toOffsetFromUtc(now.offsetFromUtc()).toString(Qt::ISODate).toStdString();
}

} // namespace

MainWindow::MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder)
    : library_(library), settings_(Settings::load()), session_(library, recoveryFolder), selection_(session_),
      asker_(library), findings_(asker_, loudest(dataFolder)), documents_(session_, settings_, dataFolder, this),
      desktop_(new DesktopLook(this)), actions_(new Actions(this)) {
  // Before there are widgets: a font set later does not reach those that a style sheet dresses.
  applyTheme(themeName());
  setAcceptDrops(true);
  setMinimumSize(1000, 560);
  build(dataFolder);
  addActions();
  buildMenu();
  wire();
  placeOnScreen();
  setTheme(settings_.theme);
  if (!pages_->showPage(settings_.page)) showPage({});
  documentChanged();
  run_->setFocus();
}

MainWindow::~MainWindow() {
  // Pages and drawer hold questions of the asker's, which goes with the window's own members.
  delete takeCentralWidget();
}

void MainWindow::build(const QString& dataFolder) {
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
  // The window's own questions come before those of pages.
  vitals_ = new Vitals(asker_, findings_, dataFolder);
  drawer_ = new Drawer(session_, asker_, selection_, findings_);
  pages_ = new PageStack({session_, asker_, selection_, findings_,
                          [this](const QString& message, bool danger) { notify(message, danger); },
                          [this](const char* id) { actions_->trigger(id); }, dataFolder},
                         settings_);
  middle->addWidget(pages_->rail());
  splitter_ = new QSplitter(Qt::Vertical);
  splitter_->setChildrenCollapsible(false);
  splitter_->setHandleWidth(3);
  run_ = new RunView;
  run_->setMinimumHeight(120);
  run_->zoomTo(settings_.runZoom);
  run_->setVisible(settings_.runShown);
  splitter_->addWidget(run_);
  splitter_->addWidget(pages_);
  splitter_->setStretchFactor(0, 0);
  splitter_->setStretchFactor(1, 1);
  middle->addWidget(splitter_, 1);
  middle->addWidget(drawer_);
  column->addLayout(middle, 1);
  column->addWidget(vitals_);
  setCentralWidget(centre);
}

void MainWindow::wire() {
  connect(splitter_, &QSplitter::splitterMoved, this,
          [this] { settings_.splitters[QLatin1String(pages_->page()->facts().id)] = splitter_->saveState(); });
  connect(&session_, &Session::replaced, this, &MainWindow::documentReplaced);
  connect(&session_, &Session::changed, this, &MainWindow::documentChanged);
  connect(&session_, &Session::safetyFailed, this, [this](const QString& m) { notices_->add(m, true, {}, unsafe); });
  connect(&session_, &Session::safetyKept, this, [this] { notices_->withdraw(unsafe); });
  connect(&documents_, &Documents::said, this, &MainWindow::notify);
  connect(&documents_, &Documents::notSaved, this, [this](const QString& m) {
    notices_->withdraw(unsaved);
    notices_->add(m, true, {}, unsaved);
  });
  connect(&documents_, &Documents::saved, this, [this] {
    notices_->withdraw(unsaved);
    notices_->withdraw(unsafe);
  });
  connect(&documents_, &Documents::offered, this,
          [this](const QString& message, const auto& choices) { notices_->add(message, false, choices); });
  connect(&selection_, &Selection::selected, this, [this] { run_->select(selection_.part()); });
  connect(run_, &RunView::partSelected, this, [this](const QString& name) { selection_.select(name.toStdString()); });
  connect(&selection_, &Selection::pieceTaken, this, [this] { run_->take(selection_.piece()); });
  connect(run_, &RunView::pieceTaken, this, [this](const Piece& piece) { selection_.take(piece); });
  connect(run_, &RunView::actWanted, this, [this](PieceAct act) { selection_.want(act); });
  connect(run_, &RunView::nameTyped, head_, &HeadStrip::startFind);
  connect(run_, &RunView::valueTyped, drawer_, &Drawer::typeValue);
  connect(drawer_, &Drawer::typingEnded, run_, qOverload<>(&QWidget::setFocus));
  connect(&asker_, &Asker::idleAnswered, this, [this] {
    showRunReadings();
    pages_->idleAnswered();
  });
  connect(&findings_, &FindingsDesk::changed, this, &MainWindow::showRunReadings);
  connect(pages_, &PageStack::shown, this, [this] {
    if (selection_.part().empty()) run_->showEnd(pages_->isAbout(PageFacts::supplyEnd));
    if (run_->isArranging() != pages_->isAbout(PageFacts::arranging)) {
      drawRun();
      showRunReadings();
    }
    shareHeight();
  });
  connect(head_, &HeadStrip::inkWanted, this, &MainWindow::inkIt);
  connect(head_, &HeadStrip::nextMarkWanted, this, &MainWindow::selectNextMark);
  connect(head_, &HeadStrip::findWanted, this, &MainWindow::find);
  connect(head_, &HeadStrip::themeWanted, this,
          [this] { setTheme(theme().name == lamp().name ? vellum().name : lamp().name); });
  connect(vitals_, &Vitals::topicWanted, this,
          [this](PageFacts::Topic topic) { pages_->showPage(PageStack::pageAbout(topic)); });
  connect(vitals_, &Vitals::partWanted, this, [this](const QString& part) { selection_.select(part.toStdString()); });
  connect(desktop_, &DesktopLook::changed, this, [this] {
    if (settings_.theme.isEmpty()) setTheme({});
  });
}

void MainWindow::placeOnScreen() {
  // With room for a title bar on a small screen, which may have become smaller since.
  const auto* screen = QGuiApplication::primaryScreen();
  const auto room = screen ? screen->availableSize() - QSize(0, titleBarRoom) : QSize(1280, 760);
  resize(QSize(1280, 800).boundedTo(room));
  if (!settings_.geometry.isEmpty()) restoreGeometry(settings_.geometry);
  if (!isMaximized() && !isFullScreen()) resize(size().boundedTo(room));
}

void MainWindow::addActions() {
  auto& a = *actions_;
  const auto keys = [](const char* text) { return QList{QKeySequence(QLatin1String(text))}; };
  const auto standard = [](QKeySequence::StandardKey key) { return QList{QKeySequence(key)}; };
  const auto files = tr("Files");
  a.add("new", files, tr("New amplifier"), standard(QKeySequence::New), [this] {
    if (documents_.startEmpty()) showPage(PageStack::pageAbout(PageFacts::arranging));
  });
  a.add("open", files, tr("Open\u2026"), standard(QKeySequence::Open), [this] { documents_.openAsked(); });
  a.add("save", files, tr("Save"), standard(QKeySequence::Save), [this] { documents_.save(); });
  a.add("save-as", files, tr("Save as\u2026"), keys("Ctrl+Shift+S"), [this] { documents_.saveAs(); });
  for (auto* own :
       {a.add("import-own", files, tr("Import a section or tube\u2026"), {}, [this] { own_->importAsked(); }),
        a.add("reread-own", files, tr("Read my own sections again"), {}, [this] { own_->readAgain(); })})
    own->setEnabled(false); // until takeOwn
  a.add("keep-skeleton", files, tr("Keep as a skeleton"), {}, [this] { documents_.keepAsSkeleton(); });
  a.add("rename", files, tr("Rename the amplifier\u2026"), {}, [this] { documents_.rename(); });
  a.add("print-run", files, tr("The run on paper\u2026"), standard(QKeySequence::Print), [this] {
    auto* dialog = new SheetDialog(runOnPaper(), this);
    connect(dialog, &SheetDialog::failed, this, [this](const QString& problem) { notify(problem, true); });
    dialog->open();
  });
  a.add("quit", files, tr("Quit"), keys("Ctrl+Q"), [this] { close(); });
  const auto pencil = tr("Pencil and ink");
  a.add("undo", pencil, tr("Undo"), standard(QKeySequence::Undo), [this] { session_.undo(); });
  a.add("redo", pencil, tr("Redo"),
        {QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))},
        [this] { session_.redo(); });
  a.add("ink", pencil, tr("Ink it\u2026"), keys("Ctrl+I"), [this] { inkIt(); });
  a.add("rub-out", pencil, tr("Rub out all marks"), keys("Ctrl+Backspace"),
        [this] { session_.edit(tr("rub out all"), [](amp::Document& d) { amp::rubOutAll(d); }); });
  a.add("renumber", pencil, tr("Number parts by the signal"), {}, [this] { renumber(); });
  a.add("next-mark", pencil, tr("Next pencilled part"), keys("Ctrl+M"), [this] { selectNextMark(); });
  const auto around = tr("Around the window");
  a.add("arrange", around, tr("Arrange the amplifier, and back"), keys("Ctrl+E"), [this] { toggleArranging(); });
  a.add("find", around, tr("Find a part or a page"), keys("Ctrl+K"), [this] { head_->startFind(); });
  a.add("menu", around, tr("The menu"), keys("F10"), [this] { head_->showMenu(); });
  a.add("next-region", around, tr("From run to page to drawer"), keys("F6"), [this] { focusNextRegion(); });
  auto* run = a.add("show-run", around, tr("Show the run"), keys("Ctrl+R"), [this] {
    settings_.runShown = actions_->action("show-run")->isChecked();
    run_->setVisible(settings_.runShown);
  });
  run->setCheckable(true);
  run->setChecked(settings_.runShown);
  auto* zigzag = a.add("zigzag", around, tr("Draw resistors as zigzags"), {}, [this] {
    settings_.resistors = actions_->action("zigzag")->isChecked() ? ResistorStyle::zigzag : ResistorStyle::box;
    drawing_ = nullptr;
    drawRun();
    showRunReadings();
  });
  zigzag->setCheckable(true);
  zigzag->setChecked(settings_.resistors == ResistorStyle::zigzag);
  a.add("run-size", around, tr("Run at its own size"), keys("Ctrl+0"), [this] { run_->zoomTo(1); });
  a.add("whole-run", around, tr("The whole amplifier, and back"), keys("Ctrl+9"),
        [this] { run_->showWhole(!run_->isWhole()); });
  a.add("keys", around, tr("Keys"), keys("F1"), [this] { actions_->showKeys(); });
  a.add("about", around, tr("About Vinegar"), {}, [this] { showAbout(); });
  pages_->addActions(a);
  const auto inRun = tr("In the run"), onDial = tr("On a dial, in a plot");
  a.note(inRun, tr("arrow keys"), tr("The next part that way"));
  a.note(inRun, tr("Home, End"), tr("The first part, the last"));
  a.note(inRun, tr("letters"), tr("Start of a part's name"));
  a.note(inRun, tr("digits"), tr("Value of the selected part; Enter takes it, Esc leaves it"));
  a.note(inRun, tr("arranging: arrow keys"), tr("The next section or place"));
  a.note(inRun, tr("arranging: Enter, Del"), tr("Choose what stands here, take it out"));
  a.note(inRun, tr("arranging: Ins, Shift+Ins, Ctrl+Ins"), tr("Put something in after it, before it, beside the line"));
  a.note(inRun, tr("arranging: Ctrl+arrows, Ctrl+D"), tr("Move it, double it"));
  a.note(inRun, tr("+, \u2212, Ctrl+wheel"), tr("Larger, smaller"));
  a.note(onDial, tr("wheel, arrow keys"), tr("Next stock value; move the cursor"));
  a.note(onDial, tr("PgUp, PgDn"), tr("A decade"));
  a.note(onDial, tr("Shift+arrow keys"), tr("The cursor in longer steps"));
  a.note(onDial, tr("Ctrl+C"), tr("Copy a plot or a table with its figures"));
}

void MainWindow::buildMenu() {
  auto* menu = new QMenu(this);
  head_->setMenu(menu);
  const auto add = [this](QMenu* to, std::initializer_list<const char*> ids) {
    for (const auto* id : ids)
      to->addAction(actions_->action(id));
  };
  add(menu, {"new", "open"});
  auto* samples = menu->addMenu(tr("Open a sample"));
  for (const auto& id : documents_.samples())
    samples->addAction(menuText(Documents::sampleTitle(id)), this, [this, id] {
      if (documents_.mayDiscard()) openSample(id);
    });
  auto* recent = menu->addMenu(tr("Recent"));
  connect(recent, &QMenu::aboutToShow, this, [this, recent] { fillRecent(recent); });
  menu->addSeparator();
  add(menu, {"save", "save-as", "rename", "renumber", "print-run"});
  add(menu->addMenu(tr("Your own")), {"keep-skeleton", "import-own", "reread-own"});
  menu->addSeparator();
  add(menu, {"undo", "redo", "rub-out", "ink"});
  menu->addSeparator();
  auto* view = menu->addMenu(tr("View"));
  add(view, {"arrange", "show-run", "zigzag", "run-size"});
  addThemes(view->addMenu(tr("Light or dark")));
  addScales(view->addMenu(tr("Size of everything")));
  menu->addSeparator();
  add(menu, {"keys", "about", "quit"});
}

void MainWindow::addThemes(QMenu* menu) {
  themes_ = new QActionGroup(this);
  for (const auto& [id, title] : {std::pair{QString(), tr("As the desktop")},
                                  {vellum().name, tr("Vellum, light")},
                                  {lamp().name, tr("Lamp, dark")}}) {
    auto* action = menu->addAction(title);
    action->setCheckable(true);
    action->setData(id);
    themes_->addAction(action);
    connect(action, &QAction::triggered, this, [this, id = id] { setTheme(id); });
  }
}

void MainWindow::addScales(QMenu* menu) {
  auto* group = new QActionGroup(this);
  for (const double scale : {1.0, 1.25, 1.5, 1.75, 2.0}) {
    auto* action = menu->addAction(QStringLiteral("%1 %").arg(scale * 100));
    action->setCheckable(true);
    action->setChecked(std::abs(settings_.scale - scale) < 0.01);
    group->addAction(action);
    connect(action, &QAction::triggered, this, [this, scale] {
      settings_.scale = scale;
      settings_.save();
      notify(tr("The new size is used from the next start."));
    });
  }
}

void MainWindow::showAbout() {
  auto* box = new QMessageBox(
      QMessageBox::NoIcon, tr("About Vinegar"),
      tr("Vinegar %1\nA workbench for tube amplifiers.\n\nThese circuits hold voltages that can kill, also after "
         "switch-off. Follow your local codes; leave mains wiring to a licensed person when in doubt.\n\n"
         "GPL-3.0-or-later. Fonts: Inter and JetBrains Mono, SIL Open Font License.")
          .arg(QCoreApplication::applicationVersion()),
      QMessageBox::Close, this);
  box->setAttribute(Qt::WA_DeleteOnClose);
  box->open();
}

/// Around the regions: run, page, drawer.
void MainWindow::focusNextRegion() {
  QWidget* focus = QApplication::focusWidget();
  if (focus == run_ || !focus) return pages_->currentWidget()->nextInFocusChain()->setFocus();
  auto* dial = drawer_->findChild<QWidget*>(QStringLiteral("dial"));
  if (pages_->isAncestorOf(focus) && dial && dial->isVisible()) return dial->setFocus();
  run_->setFocus();
}

QString MainWindow::themeName() const {
  if (!settings_.theme.isEmpty()) return settings_.theme;
  return desktop_->dark() ? lamp().name : vellum().name;
}

void MainWindow::setTheme(const QString& name) {
  settings_.theme = name;
  applyTheme(themeName());
  const bool dark = theme().name == lamp().name;
  for (auto* action : themes_->actions())
    action->setChecked(action->data().toString() == settings_.theme);
  head_->setThemeButton(dark ? tr("Vellum") : tr("Lamp"),
                        dark ? tr("Change to the light theme") : tr("Change to the dark theme"));
  pages_->restyle();
  run_->viewport()->update();
}

/// Another document: nothing of the former one stays on screen, and nothing that is still being worked out comes in.
void MainWindow::documentReplaced() {
  asker_.startAfresh();
  findings_.startAfresh();
  drawing_ = nullptr;
  freshRun_ = true;
  pages_->documentReplaced();
  drawer_->startAfresh();
  vitals_->clear();
}

void MainWindow::documentChanged() {
  asker_.follow(session_.sides());
  findings_.follow();
  head_->refresh();
  updateActions();
  drawRun();
  updateFindList();
  pages_->documentChanged();
  drawer_->refresh();
}

void MainWindow::takeOwn(amp::Library& library, const std::filesystem::path& folder) {
  own_ = new OwnLibrary(
      library, folder,
      [this] {
        asker_.standStill();
        session_.standStill();
        documents_.standStill();
      },
      [this] { session_.reconsider(); }, this);
  connect(own_, &OwnLibrary::said, this, &MainWindow::notify);
  session_.takeCopies = [this](const std::string& copies, const std::string& from) { own_->takeCopies(copies, from); };
  for (const auto* id : {"import-own", "reread-own"})
    actions_->action(id)->setEnabled(true);
}

void MainWindow::updateActions() {
  auto *undo = actions_->action("undo"), *redo = actions_->action("redo");
  undo->setEnabled(session_.canUndo());
  undo->setText(session_.canUndo() ? tr("Undo %1").arg(menuText(session_.undoName())) : tr("Undo"));
  redo->setEnabled(session_.canRedo());
  redo->setText(session_.canRedo() ? tr("Redo %1").arg(menuText(session_.redoName())) : tr("Redo"));
  const bool marks = !session_.document().sheet().marks.empty();
  for (const auto* id : {"ink", "rub-out", "next-mark"})
    actions_->action(id)->setEnabled(marks);
  setWindowTitle(QString::fromStdString(session_.document().ink.name) +
                 (session_.modified() ? QStringLiteral(" *") : QString()) + QStringLiteral(" \u2013 Vinegar"));
}

void MainWindow::drawRun() {
  auto shape = amp::shapeOf(session_.pencilled(), library_);
  const bool spread = pages_->isAbout(PageFacts::arranging);
  auto marks = session_.document().sheet().marks;
  std::erase_if(marks, [](const amp::Mark& mark) { return mark.field() != nullptr; });
  if (drawing_ && shape == drawn_ && marks == drawnMarks_ && spread == run_->isArranging()) return;
  drawn_ = std::move(shape);
  drawnMarks_ = std::move(marks);
  drawing_ = std::make_shared<const amp::Drawing>(
      amp::drawRun(session_.pencilled(), library_, spread ? amp::Form::spread : amp::Form::screen));
  RunContent content;
  content.drawing = *drawing_;
  content.gone = whatIsGone(drawnMarks_, *drawing_, library_);
  content.putIn = whatIsPutIn(drawnMarks_);
  run_->setRun(std::move(content), settings_.resistors);
  run_->select(selection_.part());
  if (freshRun_ && selection_.part().empty()) run_->showEnd(pages_->isAbout(PageFacts::supplyEnd));
  freshRun_ = false;
  arrangeRun();
  shareHeight();
}

/// The run takes the height it needs, up to what leaves the page its share, until the builder has drawn the line
/// elsewhere on this page.
void MainWindow::shareHeight() {
  const auto* page = pages_->page();
  if (const auto own = page ? settings_.splitters.value(QLatin1String(page->facts().id)) : QByteArray();
      !own.isEmpty()) {
    splitter_->restoreState(own);
  } else if (settings_.runShown) {
    const int room = splitter_->isVisible() ? splitter_->height()
                                            : height() - head_->sizeHint().height() - vitals_->sizeHint().height();
    const int wanted = std::min(run_->fullHeight(), room * (100 - pageShare) / 100);
    splitter_->setSizes({wanted, room - wanted});
  }
}

void MainWindow::arrangeRun() {
  if (!drawing_) return;
  if (!pages_->isAbout(PageFacts::arranging)) return run_->arrange({});
  run_->arrange(Arranging(*drawing_, session_.pencilled()));
  run_->take(selection_.piece());
}

void MainWindow::toggleArranging() {
  const bool back = pages_->isAbout(PageFacts::arranging) && !before_.isEmpty();
  const auto from = pages_->page()->facts().id;
  showPage(back ? before_ : PageStack::pageAbout(PageFacts::arranging));
  if (!back) {
    before_ = QLatin1String(from);
    if (!settings_.runShown) actions_->trigger("show-run");
    run_->setFocus();
  }
}

void MainWindow::showRunReadings() {
  auto readings = runReadings(session_, asker_.idle(), findings_.findings());
  run_->setReadings(std::move(readings.labels), std::move(readings.volts), std::move(readings.stressed));
}

QStringList MainWindow::pages() { return PageStack::ids(); }

void MainWindow::showPage(const QString& id) {
  pages_->showPage(id.isEmpty() ? PageStack::pageAbout(PageFacts::gain) : id);
}

void MainWindow::updateFindList() {
  QStringList entries = PageStack::titles();
  for (const auto& part : session_.pencilledParts())
    entries << QStringLiteral("%1  %2").arg(QString::fromStdString(part.name),
                                            QString::fromStdString(library_.role(part.part->role).title));
  head_->setFindEntries(entries);
}

void MainWindow::find(const QString& text) {
  const QString wanted = text.section(QStringLiteral("  "), 0, 0).trimmed();
  if (wanted.isEmpty()) return;
  if (const auto page = PageStack::find(wanted); !page.isEmpty()) {
    showPage(page);
    return head_->clearFind();
  }
  for (const auto& part : session_.pencilledParts())
    if (QString::fromStdString(part.name).compare(wanted, Qt::CaseInsensitive) == 0) {
      selection_.select(part.name);
      run_->setFocus();
      return head_->clearFind();
    }
  notify(tr("There is no part or page \u201c%1\u201d.").arg(wanted));
}

void MainWindow::selectNextMark() {
  // Of each mark the first part that can be looked at; what was taken out is looked at in the list of marks.
  std::vector<std::string> places;
  std::size_t next = 0;
  for (const auto& mark : session_.document().sheet().marks) {
    const auto touched = amp::partsOf(mark);
    const auto seen = std::find_if(touched.begin(), touched.end(), [&](const std::string& part) {
      return amp::findPart(session_.pencilled(), library_, part).has_value();
    });
    if (seen == touched.end()) continue;
    places.push_back(*seen);
    if (touched.contains(selection_.part())) next = places.size();
  }
  if (!places.empty()) selection_.select(places[next % places.size()]);
}

void MainWindow::inkIt() {
  const auto& document = session_.document();
  if (document.sheet().marks.empty()) return;
  QStringList lines;
  const auto settled = amp::settle(document.ink, library_, document.sheet().marks);
  for (std::size_t i = 0; i < settled.fallen.size(); ++i) {
    const auto words =
        QString::fromStdString(amp::describe(document.sheet().marks[i], document.ink, settled.design, library_));
    lines << (settled.fallen[i]
                  ? tr("stays in pencil, since %1: %2").arg(QString::fromStdString(settled.fallen[i]->message), words)
                  : words);
  }
  if (const auto problems = amp::check(settled.design, library_); !problems.empty())
    lines << warned(
        tr("inked as it is, this amplifier has no answer: %1").arg(QString::fromStdString(problems.front().line())));
  auto* dialog = new InkDialog(lines, this);
  connect(dialog, &InkDialog::reasonGiven, this, [this](const QString& reason) {
    session_.edit(tr("ink"), [&](amp::Document& d) { amp::ink(d, library_, reason.toStdString(), dateNow()); });
  });
  dialog->open();
}

/// Straight into ink: names alone are no change of the amplifier, so there is nothing to hear or weigh first.
void MainWindow::renumber() {
  std::map<std::string, std::string> names;
  const auto chosen = selection_.part();
  session_.edit(tr("numbering"), [&](amp::Document& d) { names = amp::renumber(d, library_, dateNow()); });
  if (names.empty()) return notify(tr("The parts are numbered by the signal already."));
  selection_.select(names.contains(chosen) ? names.at(chosen) : chosen);
  notify(tr("%1 parts have new numbers: V1 is the first tube that the signal meets, and the supply comes last. The log "
            "has the old ones; Ctrl+Z brings them back.")
             .arg(names.size()));
}

PaperRun MainWindow::runOnPaper() const {
  return paperRun(session_, asker_.idle(), findings_.findings(), library_, settings_.resistors);
}

bool MainWindow::exportRunTo(const QString& path, QPageSize::PageSizeId page, bool volts) {
  const auto problem = FoldedRun(runOnPaper(), page, volts).save(path);
  if (!problem.isEmpty()) notify(problem, true);
  return problem.isEmpty();
}

void MainWindow::fillRecent(QMenu* menu) {
  menu->clear();
  for (const auto& path : settings_.recent) {
    auto* action = menu->addAction(menuText(QFileInfo(path).fileName()), this, [this, path] {
      if (documents_.mayDiscard()) openFile(path);
    });
    action->setToolTip(plainTip(path));
    action->setEnabled(QFileInfo::exists(path));
  }
  if (settings_.recent.isEmpty()) menu->addAction(tr("Nothing yet"))->setEnabled(false);
}

void MainWindow::notify(const QString& message, bool danger) { notices_->add(message, danger); }

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!documents_.mayDiscard()) return event->ignore();
  settings_.geometry = saveGeometry();
  settings_.runZoom = run_->zoom();
  pages_->keepViews();
  settings_.save();
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  const auto urls = event->mimeData()->urls();
  if (urls.isEmpty() || !urls.front().isLocalFile()) return;
  const auto path = urls.front().toLocalFile();
  if (own_ && path.endsWith(QStringLiteral(".json"), Qt::CaseInsensitive)) return own_->import(path);
  if (documents_.mayDiscard()) openFile(path);
}

} // namespace vinegar::app

#include "moc_main_window.cpp"
