#include "theme/text.h"

#include "theme/theme.h"

#include <QCoreApplication>

namespace vinegar::app {

Label::Label(const QString& text, QWidget* parent) : QLabel(parent) {
  setTextFormat(Qt::PlainText); // before there is a text to guess about
  setText(text);
}

Label* quietLabel(const QString& text, const char* name) {
  auto* label = new Label(text);
  label->setProperty("quiet", true);
  if (name) label->setObjectName(QLatin1String(name));
  return label;
}

Label* answerLabel(const char* name, double points) {
  auto* label = new Label;
  label->setObjectName(QLatin1String(name));
  label->setFont(textFont(points, QFont::DemiBold));
  return label;
}

QString plainTip(const QString& text) {
  if (!Qt::mightBeRichText(text)) return text;
  return QStringLiteral("<p style='white-space:pre-wrap'>%1</p>").arg(text.toHtmlEscaped());
}

QString tr(const char* text) { return QCoreApplication::translate("Words", text); }

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
