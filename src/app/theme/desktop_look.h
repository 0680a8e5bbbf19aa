#pragma once

#include <QObject>
#include <QVariant>

class QDBusVariant;

namespace vinegar::app {

/// Whether the desktop is set to dark, from its settings service (the desktop portal, org.freedesktop.appearance), now
/// and whenever it changes. Until that answers, and where there is none, the colours that the toolkit started with
/// tell.
class DesktopLook : public QObject {
  Q_OBJECT
public:
  explicit DesktopLook(QObject* parent = nullptr);
  [[nodiscard]] bool dark() const { return dark_; }

Q_SIGNALS:
  void changed();

private Q_SLOTS:
  void settingChanged(const QString& group, const QString& key, const QDBusVariant& value);

private:
  void take(const QVariant& value);

  bool dark_;
};

} // namespace vinegar::app
