#pragma once

#include "pages/kit/answer_pane.h"

class QComboBox;

namespace vinegar::app {

/// From where to where the signal is looked at: one choice for all views of the page.
class SpanChoice : public QWidget {
  Q_OBJECT
public:
  explicit SpanChoice(const PageContext& context);

  [[nodiscard]] QString from() const;
  [[nodiscard]] QString to() const;
  /// "jack to speaker"
  [[nodiscard]] QString words() const;
  /// The probes of the design; the choice stays where they do.
  void fill(const amp::Circuit& circuit);
  void clear();
  /// That span, as far as the design has it.
  void look(const std::string& from, const std::string& to);

Q_SIGNALS:
  void chosen();

private:
  void choose();

  PageContext context_;
  QPushButton* whole_;
  QComboBox *from_, *to_;
};

/// A view of the Voice page: asked of a span of the design.
class VoiceView : public PageView {
  Q_OBJECT
public:
  VoiceView(Page& page, SpanChoice& span);

protected:
  void ask(const Answers<predict::Idle>& idle) final;
  /// Asks what the view shows of the chosen span.
  virtual void put() = 0;
  [[nodiscard]] SpanChoice& span() const { return span_; }
  [[nodiscard]] std::string from() const { return span_.from().toStdString(); }
  [[nodiscard]] std::string to() const { return span_.to().toStdString(); }
  [[nodiscard]] const predict::Idle* now() const;
  /// Where the signal is made, for what stands before the jack: its node and its name. Nothing where the span does not
  /// start at the jack, or nothing makes a signal.
  struct Origin {
    std::string node;
    QString name;
    std::string section;
  };
  [[nodiscard]] std::optional<Origin> origin() const;
  /// The builder's own stretches of the spectrum, or the usual ones.
  [[nodiscard]] const std::vector<amp::ToneBand>& bands() const;
  /// A band's name in the reader's language where it is a usual one.
  static QString bandWords(const amp::ToneBand& band) { return tr(band.name.c_str()); }
  /// "C5 100n"
  [[nodiscard]] QString valueWords(const std::string& part, double value) const;

  /// The ink of another design's file, or null: then it is told what is wrong with it.
  [[nodiscard]] std::shared_ptr<const amp::Design> readOther(const QString& path);

private:
  SpanChoice& span_;
};

/// Most views: an answer in a sentence, a plot, and a table beside it.
class AnswerView : public VoiceView, protected AnswerPane {
  Q_OBJECT
protected:
  AnswerView(Page& page, SpanChoice& span, const Names& names) : VoiceView(page, span), AnswerPane(*this, names) {}
};

/// A response over frequency, as every view of the page draws one.
CurvePlot::Picture voicePicture(const QString& title, const QString& label);
/// A part that a change moves: "V2a +5.6 %", or empty.
QString movedWords(const std::string& tube, double share);

} // namespace vinegar::app
