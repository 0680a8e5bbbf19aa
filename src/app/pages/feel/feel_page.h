#pragma once

#include "pages/feel/burst_view.h"

namespace vinegar::app {

/// How does it sag, bloom and recover? A phrase played through the amplifier and its supply: over time, what the droop
/// is made of, and what other parts make of it.
class FeelPage : public ViewsPage {
  Q_OBJECT
public:
  FeelPage(const PageContext& context, const PageFacts& facts);

  [[nodiscard]] QByteArray saveView() const override;
  void restoreView(const QByteArray& view) override;
  /// Plays the builder's own recording; says what is wrong with it.
  Q_INVOKABLE void openRecording(const QString& path);

private:
  PhraseBox* phrases_;
  BurstView* burst_;
};

} // namespace vinegar::app
