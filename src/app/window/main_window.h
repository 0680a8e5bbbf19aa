#pragma once

#include "window/predictor.h"
#include "window/session.h"
#include "window/settings.h"

#include <QMainWindow>
#include <map>

class QButtonGroup;
class QSplitter;
class QStackedWidget;

namespace vinegar::app {

class Drawer;
class HeadStrip;
class LogPage;
class Notices;
class RunView;
class SupplyPage;
enum class Pages;
class Vitals;
class VoicePage;

/// The window: head strip, page rail, run, page, drawer, vitals. Asks the predictions in the background and hands the
/// answers round.
class MainWindow : public QMainWindow {
  Q_OBJECT
public:
  MainWindow(const amp::Library& library, const QString& dataFolder, const QString& recoveryFolder);
  ~MainWindow() override;

  [[nodiscard]] Session& session() { return session_; }
  /// Opens a design and says so if it cannot be.
  bool openFile(const QString& path);
  bool openSample(const QString& id);
  /// A strip for each safety copy found.
  void offerRecovery();
  void selectPart(const std::string& name);
  void showPage(const QString& name);
  /// No prediction is asked, running or undelivered.
  [[nodiscard]] bool idle() const;
  /// What was asked last is on screen; slower views and findings may still be at work.
  [[nodiscard]] bool answered() const { return predictor_.idle(); }
  void setTheme(const QString& name);
  void notify(const QString& message, bool danger = false);
  /// By the file's ending: pdf, svg or a picture. A failure is shown to the user.
  bool exportRunTo(const QString& path, Pages pages);

protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

private:
  QWidget* buildRail();
  void buildMenu();
  void documentChanged();
  void drawRun();
  void ask();
  void display(const Shown& shown);
  void showRunReadings(const Shown& shown);
  void showStressed();
  [[nodiscard]] std::vector<Problem> supplyProblems() const;
  void updateActions();
  void updateFindList();
  void find(const QString& text);
  void selectNextMark();
  void inkIt();
  bool save();
  bool saveAs();
  bool mayDiscard();
  void exportRun();
  void printRun();
  [[nodiscard]] QString runTitle() const;
  void fillRecent();

  const amp::Library& library_;
  QString dataFolder_;
  Settings settings_;
  Session session_;
  Predictor predictor_;
  std::string selected_;
  amp::Design drawn_;
  std::shared_ptr<const amp::Drawing> drawing_;
  Shown shown_;

  HeadStrip* head_;
  QButtonGroup* rail_;
  QSplitter* splitter_;
  RunView* run_;
  QStackedWidget* pages_;
  SupplyPage* supply_;
  VoicePage* voice_;
  LogPage* log_;
  Drawer* drawer_;
  Vitals* vitals_;
  Notices* notices_;
  QAction *undo_, *redo_, *runAction_;
  QMenu* recentMenu_;
};

} // namespace vinegar::app
