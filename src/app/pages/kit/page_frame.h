#pragma once

#include "ask/asker.h"
#include "widgets/state_pane.h"

#include <QTimer>
#include <QWidget>

class QBoxLayout;
class QButtonGroup;
class QComboBox;
class QMenu;
class QPushButton;
class QToolButton;

namespace vinegar::app {

/// What stands around every page: title and question, views, tools, Export, progress with Cancel, and in place of the
/// content what is to be said when there is none.
class PageFrame : public QWidget {
  Q_OBJECT
public:
  PageFrame(const QString& title, const QString& question, QWidget* parent = nullptr);

  /// A tab; its number is its place. `id` is English whatever is written on it.
  void addView(const QString& id, const QString& title);
  void setView(int view);
  /// The view of that id, or -1; and the id of the view on screen.
  [[nodiscard]] int viewOf(const QString& id) const;
  [[nodiscard]] QString viewId() const;
  void setViewTitle(int view, const QString& title);
  /// At the right of the head.
  void addHeadTool(QWidget* tool);
  /// Under the head, over the whole width.
  void addRow(QWidget* row);
  /// Left of the content.
  void setSide(QWidget* side);
  void setContent(QWidget* content);
  [[nodiscard]] StatePane& state() { return *state_; }
  /// What the Export button offers; empty: there is none.
  using Exports = std::vector<std::pair<QString, std::function<void()>>>;
  void setExports(const Exports& exports);
  /// Shows its progress once it has taken half a second, and lets it be cancelled.
  void watch(AskingBase& asking);

Q_SIGNALS:
  void viewChosen(int view);

private:
  bool event(QEvent* event) override;
  void showProgress();
  /// Views and tools in a row of their own where they do not fit beside the title.
  void placeTools();

  QBoxLayout *column_, *title_, *both_, *head_, *viewRow_, *row_; ///< both: tools and views
  QWidget* name_;
  bool ownRow_ = false, tight_ = false;
  QButtonGroup* views_;
  QComboBox* viewList_; ///< in place of the tabs where they do not fit
  QStringList viewIds_;
  QWidget* tools_;
  QToolButton* export_;
  QMenu* exportMenu_;
  QLabel* progress_;
  QPushButton* cancel_;
  StatePane* state_ = nullptr;
  std::vector<AskingBase*> watched_;
  QTimer look_;
};

} // namespace vinegar::app
