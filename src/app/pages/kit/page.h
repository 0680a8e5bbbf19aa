// Room: the pages. Each answers one question of the builder's; the window knows none of them by name.
#pragma once

#include "ask/findings_desk.h"
#include "document/selection.h"
#include "document/session.h"
#include "pages/kit/kept.h"
#include "pages/kit/page_frame.h"
#include "pages/kit/view.h"

#include <QCoreApplication>

class QTextBrowser;

namespace vinegar::app {

class CurvePlot;
class FigureSheet;
class Page;

/// What a page may reach. All of it outlives the page.
struct PageContext {
  Session& session;
  Asker& asker;
  Selection& selection;
  const FindingsDesk& findings;
  std::function<void(const QString& message, bool danger)> notify; ///< a strip over the pages
  std::function<void(const char* action)> act;                     ///< one of the window's named actions
  QString dataFolder;                                              ///< of what is shipped
};

/// What the window knows of a page before there is one. `title` and `question` are of the translation context "Page".
struct PageFacts {
  /// What else in the window leads here.
  enum Topic : unsigned {
    none = 0,
    gain = 1,      ///< the vitals' levels; also what a first start shows
    findings = 2,  ///< findings that concern no one part
    supplyEnd = 4, ///< the run shows its supply's end beside it
    clipping = 16, ///< what clips first
    sagging = 32,  ///< what the supply gives way by
    arranging = 8, ///< the run is in its arranging form beside it
  };
  const char *id, *title, *question;
  Page* (*make)(const PageContext& context, const PageFacts& facts);
  unsigned topics = none;
  [[nodiscard]] QString titleText() const { return QCoreApplication::translate("Page", title); }
  [[nodiscard]] QString questionText() const { return QCoreApplication::translate("Page", question); }
};

/// A page is made when it is shown first. While it is hidden nothing is asked or drawn for it; when it is shown again
/// it follows what it missed. A derived class makes its content in the constructor, has its questions as Kept members
/// and draws in `draw`. All of it is the window's thread's.
class Page : public View {
  Q_OBJECT
public:
  Page(const PageContext& context, const PageFacts& facts);

  [[nodiscard]] const PageFacts& facts() const { return facts_; }
  /// By the window only.
  void documentChanged();
  void idleAnswered();
  void documentReplaced();
  virtual void restyle() {}
  /// Tab, span, cursor: kept in the settings under the page's id, in the page's own form.
  [[nodiscard]] virtual QByteArray saveView() const { return {}; }
  virtual void restoreView(const QByteArray&) {}
  /// Export of a plot, a table or a text, for the frame.
  [[nodiscard]] PageFrame::Exports exportsOf(CurvePlot& plot, const QString& fileName);
  [[nodiscard]] PageFrame::Exports exportsOf(FigureSheet& sheet, const QString& fileName);
  [[nodiscard]] PageFrame::Exports exportsOf(QTextBrowser& text, const QString& fileName);
  [[nodiscard]] PageFrame& frame() const { return *frame_; }
  [[nodiscard]] const PageContext& context() const { return context_; }
  [[nodiscard]] Session& session() const { return context_.session; }

protected:
  /// Knobs, lists: what follows from the document alone.
  virtual void followDocument() {}
  /// The idle states are others: ask what follows from them, or say why there is nothing.
  virtual void followIdle(const Answers<predict::Idle>& idle) = 0;
  /// Another document is open: nothing of the former one may be shown.
  virtual void startAfresh() {}
  [[nodiscard]] Asker& asker() const override { return context_.asker; }
  /// A question of the page's own: see View; its progress is in the frame.
  void own(AskingBase& asking) override;
  /// Says that the design is empty, or has no answer, where and what to do; false where neither is so. Where the pencil
  /// alone has none, it says so over the ink's.
  bool saysNothing(const Answers<predict::Idle>& idle);
  void showEvent(QShowEvent* event) override;

private:
  void catchUp();
  /// A button's words that lead to the part, and what it does; nothing where the problem is of no part.
  [[nodiscard]] std::pair<QString, std::function<void()>> wayTo(const Problem& problem) const;
  void save(const QString& proposed, const QString& kind, const QByteArray& bytes);

  PageContext context_;
  const PageFacts& facts_;
  PageFrame* frame_;
  bool documentLate_ = true, idleLate_ = true;
};

/// A way to make a page of class P, for PageFacts.
template <class P> Page* makePage(const PageContext& context, const PageFacts& facts) { return new P(context, facts); }

/// All pages in the order of work.
const std::vector<const PageFacts*>& pageList();

} // namespace vinegar::app
