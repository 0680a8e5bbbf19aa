#include "theme/text.h"

namespace vinegar::app {

Label::Label(const QString& text, QWidget* parent) : QLabel(parent) {
  setTextFormat(Qt::PlainText); // before there is a text to guess about
  setText(text);
}

QString plainTip(const QString& text) {
  if (!Qt::mightBeRichText(text)) return text;
  return QStringLiteral("<p style='white-space:pre-wrap'>%1</p>").arg(text.toHtmlEscaped());
}

QString sentence(QString words) {
  if (!words.isEmpty()) words[0] = words[0].toUpper();
  return words;
}

PageBrowser::PageBrowser(QWidget* parent) : QTextBrowser(parent) {
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setOpenLinks(false);
}

QVariant PageBrowser::loadResource(int, const QUrl&) { return {}; }

} // namespace vinegar::app
