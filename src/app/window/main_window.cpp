#include "window/main_window.h"

#include "drawer/drawer.h"
#include "files/phrases.h"
#include "run/run_view.h"
#include "run/sheet_dialog.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "window/actions.h"
#include "window/head_strip.h"
#include "window/main_menu.h"
#include "window/notices.h"
#include "window/page_stack.h"
#include "window/vitals.h"

#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QHBoxLayout>
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

} // namespace

MainWindow::MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder)
    : library_(library), settings_(Settings::load()), session_(library, recoveryFolder), selection_(session_),
      asker_(library), findings_(asker_, loudest(dataFolder)), documents_(session_, settings_, dataFolder, this),
      marks_(session_, selection_, [this](const QString& message) { notify(message); }),
      desktop_(new DesktopLook(this)), actions_(new Actions(this)) {
  // Before there are widgets: a font set later does not reach those that a style sheet dresses.
  applyTheme(themeName());
  setAcceptDrops(true);
  setMinimumSize(1000, 560);
  build(dataFolder);
  addActions();
  menu_ = new MainMenu(*actions_, documents_, settings_, this);
  head_->setMenu(menu_);
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
  desk_ = std::make_unique<RunDesk>(*run_, session_, asker_, findings_, selection_, settings_);
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
  notices_->follow(session_, documents_);
  connect(&session_, &Session::replaced, this, &MainWindow::documentReplaced);
  connect(&session_, &Session::changed, this, &MainWindow::documentChanged);
  connect(run_, &RunView::nameTyped, head_, &HeadStrip::startFind);
  connect(run_, &RunView::valueTyped, drawer_, &Drawer::typeValue);
  connect(drawer_, &Drawer::typingEnded, run_, qOverload<>(&QWidget::setFocus));
  connect(&asker_, &Asker::idleAnswered, this, [this] {
    desk_->showReadings();
    pages_->idleAnswered();
  });
  connect(&findings_, &FindingsDesk::changed, this, [this] { desk_->showReadings(); });
  connect(pages_, &PageStack::shown, this, [this] {
    if (selection_.part().empty()) run_->showEnd(pages_->isAbout(PageFacts::supplyEnd));
    if (run_->isArranging() != pages_->isAbout(PageFacts::arranging)) {
      drawRun();
      desk_->showReadings();
    }
    shareHeight();
  });
  connect(head_, &HeadStrip::inkWanted, this, [this] { marks_.inkAsked(this); });
  connect(head_, &HeadStrip::nextMarkWanted, this, [this] { marks_.selectNext(); });
  connect(head_, &HeadStrip::pageWanted, this, &MainWindow::showPage);
  connect(head_, &HeadStrip::partWanted, this, [this](const QString& part) {
    selection_.select(part.toStdString());
    run_->setFocus();
  });
  connect(head_, &HeadStrip::said, this, [this](const QString& message) { notify(message); });
  connect(head_, &HeadStrip::themeWanted, this,
          [this] { setTheme(theme().name == lamp().name ? vellum().name : lamp().name); });
  connect(menu_, &MainMenu::themeWanted, this, &MainWindow::setTheme);
  connect(menu_, &MainMenu::said, this, [this](const QString& message) { notify(message); });
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
  a.add("import-own", files, tr("Import a section or tube\u2026"), {}, [this] { own_->importAsked(); });
  a.add("reread-own", files, tr("Read my own sections again"), {}, [this] { own_->readAgain(); });
  a.add("keep-skeleton", files, tr("Keep as a skeleton"), {}, [this] { documents_.keepAsSkeleton(); });
  a.add("rename", files, tr("Rename the amplifier\u2026"), {}, [this] { documents_.rename(); });
  a.add("print-run", files, tr("The run on paper\u2026"), standard(QKeySequence::Print),
        [this] { (new SheetDialog(desk_->onPaper(), this))->open(); });
  a.add("quit", files, tr("Quit"), keys("Ctrl+Q"), [this] { close(); });
  const auto pencil = tr("Pencil and ink");
  a.add("undo", pencil, tr("Undo"), standard(QKeySequence::Undo), [this] { session_.undo(); });
  a.add("redo", pencil, tr("Redo"),
        {QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))},
        [this] { session_.redo(); });
  a.add("ink", pencil, tr("Ink it\u2026"), keys("Ctrl+I"), [this] { marks_.inkAsked(this); });
  a.add("rub-out", pencil, tr("Rub out all marks"), keys("Ctrl+Backspace"), [this] { marks_.rubOutAll(); });
  a.add("renumber", pencil, tr("Number parts by the signal"), {}, [this] { marks_.renumber(); });
  a.add("next-mark", pencil, tr("Next pencilled part"), keys("Ctrl+M"), [this] { marks_.selectNext(); });
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
    desk_->redraw();
    drawRun();
    desk_->showReadings();
  });
  zigzag->setCheckable(true);
  zigzag->setChecked(settings_.resistors == ResistorStyle::zigzag);
  a.add("run-size", around, tr("Run at its own size"), keys("Ctrl+0"), [this] { run_->zoomTo(1); });
  a.add("whole-run", around, tr("The whole amplifier, and back"), keys("Ctrl+9"),
        [this] { run_->showWhole(!run_->isWhole()); });
  a.add("keys", around, tr("Keys"), keys("F1"), [this] { actions_->showKeys(); });
  a.add("about", around, tr("About Vinegar"), {}, [this] { showAbout(this); });
  pages_->addActions(a);
  a.noteKeys();
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
  menu_->showTheme(settings_.theme);
  head_->restyle();
  pages_->restyle();
  run_->viewport()->update();
}

/// Another document: nothing of the former one stays on screen, and nothing that is still being worked out comes in.
void MainWindow::documentReplaced() {
  asker_.startAfresh();
  findings_.startAfresh();
  desk_->startAfresh();
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
}

void MainWindow::updateActions() {
  auto *undo = actions_->action("undo"), *redo = actions_->action("redo");
  undo->setEnabled(session_.canUndo());
  undo->setText(session_.canUndo() ? tr("Undo %1").arg(menuText(session_.undoName())) : tr("Undo"));
  redo->setEnabled(session_.canRedo());
  redo->setText(session_.canRedo() ? tr("Redo %1").arg(menuText(session_.redoName())) : tr("Redo"));
  for (const auto* id : {"import-own", "reread-own"})
    actions_->action(id)->setEnabled(own_ != nullptr);
  const bool marks = !session_.document().sheet().marks.empty();
  for (const auto* id : {"ink", "rub-out", "next-mark"})
    actions_->action(id)->setEnabled(marks);
  setWindowTitle(QString::fromStdString(session_.document().ink.name) +
                 (session_.modified() ? QStringLiteral(" *") : QString()) + QStringLiteral(" \u2013 Vinegar"));
}

void MainWindow::drawRun() {
  if (desk_->follow(pages_->isAbout(PageFacts::arranging), pages_->isAbout(PageFacts::supplyEnd))) shareHeight();
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

void MainWindow::showPage(const QString& id) {
  pages_->showPage(id.isEmpty() ? PageStack::pageAbout(PageFacts::gain) : id);
}

bool MainWindow::exportRunTo(const QString& path, QPageSize::PageSizeId page, bool volts) {
  const auto problem = FoldedRun(desk_->onPaper(), page, volts).save(path);
  if (!problem.isEmpty()) notify(problem, true);
  return problem.isEmpty();
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
