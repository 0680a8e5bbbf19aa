#pragma once

#include "pages/page_view.h"

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
  void select(const std::string& part);
  /// "C5 100n"
  [[nodiscard]] QString valueWords(const std::string& part, double value) const;

private:
  SpanChoice& span_;
};

/// A response over frequency, as every view of the page draws one.
CurvePlot::Picture voicePicture(const QString& title, const QString& label);
/// A part that a change moves: "V2a +5.6 %", or empty.
QString movedWords(const std::string& tube, double share);

} // namespace vinegar::app
