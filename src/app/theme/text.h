// The builder's words on screen: names, ids and reasons are shown as they were written, never read as mark-up.
#pragma once

#include <QLabel>
#include <QString>
#include <QTextBrowser>

namespace vinegar::app {

/// Translated words for what is said outside the toolkit's classes.
QString tr(const char* text);

/// The one kind of label there is: plain text.
class Label : public QLabel {
public:
  explicit Label(const QString& text = {}, QWidget* parent = nullptr);
};

/// A label of words that stand back, and one that answers a page's question; `name` is its object name.
Label* quietLabel(const QString& text = {}, const char* name = nullptr);
Label* answerLabel(const char* name, double points = 12);

/// A tooltip that shows `text` as it is; Qt would take much of it for mark-up.
QString plainTip(const QString& text);

/// The same in a menu or on a button, where an ampersand would mark a key.
inline QString menuText(QString text) { return text.replace(QLatin1Char('&'), QStringLiteral("&&")); }

/// The same words as the start of a line: their first letter large.
QString sentence(QString words);

/// A page of text that the program composes, every word of the builder's escaped. Fetches nothing: no picture, no file.
class PageBrowser : public QTextBrowser {
public:
  explicit PageBrowser(QWidget* parent = nullptr);
  QVariant loadResource(int type, const QUrl& name) override;
};

} // namespace vinegar::app
