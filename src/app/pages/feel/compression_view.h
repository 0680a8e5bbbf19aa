#pragma once

#include "pages/feel/feel_view.h"
#include "predict/feel/compression.h"

namespace vinegar::app {

/// How much louder it gets where it is played harder, ink and pencil: what is missing against a straight line.
class CompressionView : public FeelView {
  Q_OBJECT
public:
  CompressionView(Page& page, PhraseBox& phrases);

protected:
  void put() override { compression_.ask(burst(coarse), burst(middling)); }
  void draw() override;

private:
  void fillSheet(const predict::Compression& now, const predict::Compression* ink);
  [[nodiscard]] QString said(const predict::Compression& now, const predict::Compression* ink) const;

  CoarseFine<predict::predictCompression> compression_{*this, Of::inkAndNow};
};

} // namespace vinegar::app
