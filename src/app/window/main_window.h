#pragma once

#include "ask/findings_desk.h"
#include "document/documents.h"
#include "document/own_library.h"
#include "document/selection.h"
#include "document/session.h"
#include "document/settings.h"
#include "theme/desktop_look.h"
#include "window/mark_acts.h"
#include "window/run_desk.h"

#include <QMainWindow>
#include <QPageSize>

class QSplitter;

namespace vinegar::app {

class Actions;
class Drawer;
class HeadStrip;
class MainMenu;
class Notices;
class PageStack;
class RunView;
class Vitals;

/// The window: head strip, page rail, run, page, drawer, vitals, and the wiring between them. All of it is the window's
/// thread's.
class MainWindow : public QMainWindow {
  Q_OBJECT
public:
  MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder);
  /// The same library, to be changed with what is the builder's own, and the folder of that. Without this nothing of
  /// his is taken in.
  void takeOwn(amp::Library& library, const std::filesystem::path& folder);
  ~MainWindow() override;

  [[nodiscard]] Session& session() { return session_; }
  [[nodiscard]] Actions& actions() { return *actions_; }
  [[nodiscard]] const FindingsDesk& findings() const { return findings_; }
  bool openFile(const QString& path) { return documents_.open(path); }
  bool openSample(const QString& id) { return documents_.openSample(id); }
  void offerRecovery() { documents_.offerRecovery(); }
  void selectPart(const std::string& name) { selection_.select(name); }
  void selectSection(const std::string& id) { selection_.take({id, {}}); }
  /// By its English id; empty: what a first start shows.
  void showPage(const QString& id);
  /// No prediction is asked, running or undelivered.
  [[nodiscard]] bool idle() const { return asker_.quiet() && findings_.quiet(); }
  /// The same of all but what no page shows: findings and the footer's waves.
  [[nodiscard]] bool pagesAnswered() const { return asker_.pagesAnswered(); }
  /// What was asked last is on screen; slower views and findings may still be at work.
  [[nodiscard]] bool answered() const { return asker_.answered(); }
  /// "vellum", "lamp", or empty: as the desktop is, now and when it changes.
  void setTheme(const QString& name);
  void notify(const QString& message, bool danger = false);
  /// The run on paper, by the file's ending: pdf, svg or png. A failure is shown to the user.
  bool exportRunTo(const QString& path, QPageSize::PageSizeId page, bool volts);

protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

private:
  void build(const QString& dataFolder);
  void wire();
  void addActions();
  void placeOnScreen();
  void documentReplaced();
  void documentChanged();
  void drawRun();
  void shareHeight();
  void toggleArranging();
  void updateActions();
  void focusNextRegion();
  [[nodiscard]] QString themeName() const;

  const amp::Library& library_;
  OwnLibrary* own_ = nullptr;
  Settings settings_;
  Session session_;
  Selection selection_;
  Asker asker_;
  FindingsDesk findings_;
  Documents documents_;
  MarkActs marks_;
  DesktopLook* desktop_;
  Actions* actions_;
  QString before_; ///< the page shown before arranging
  std::unique_ptr<RunDesk> desk_;

  HeadStrip* head_;
  QSplitter* splitter_;
  RunView* run_;
  PageStack* pages_;
  Drawer* drawer_;
  Vitals* vitals_;
  Notices* notices_;
  MainMenu* menu_;
};

} // namespace vinegar::app
