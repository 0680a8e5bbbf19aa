#pragma once

#include "document/settings.h"
#include "pages/kit/page.h"

#include <QStackedWidget>

class QButtonGroup;
class QScrollArea;

namespace vinegar::app {

class Actions;

/// The pages, of which one is on screen, and the rail of their names. A page is made when it is shown first.
class PageStack : public QStackedWidget {
  Q_OBJECT
public:
  PageStack(const PageContext& context, Settings& settings, QWidget* parent = nullptr);

  /// The names down the left; scrolls where there are more than the window is high.
  [[nodiscard]] QWidget* rail() const;
  /// Alt+1 to Alt+9 for the first nine, Alt+PgUp and Alt+PgDn for the neighbours.
  void addActions(Actions& actions);
  /// By id, English; false where there is none.
  bool showPage(const QString& id);
  /// Whether the page on screen is about that.
  [[nodiscard]] bool isAbout(PageFacts::Topic topic) const;
  /// The first page that is; empty where none is.
  [[nodiscard]] static QString pageAbout(PageFacts::Topic topic);
  [[nodiscard]] Page* page() const;
  static QStringList ids();
  /// Ids and titles of which a text is either, whatever its letters.
  [[nodiscard]] static QString find(const QString& text);
  [[nodiscard]] static QStringList titles();

  void documentChanged();
  void idleAnswered();
  void documentReplaced();
  void restyle();
  /// What each page was showing goes into the settings.
  void keepViews();

Q_SIGNALS:
  void shown();

private:
  template <class Act> void each(Act act); ///< of those that are made
  void move(int by);

  PageContext context_;
  Settings& settings_;
  QScrollArea* rail_;
  QButtonGroup* buttons_;
  std::vector<Page*> pages_; ///< by place in pageList; null: not yet made
  int current_ = -1;
};

} // namespace vinegar::app
