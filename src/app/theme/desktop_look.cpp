#include "theme/desktop_look.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <QDBusVariant>
#include <QGuiApplication>
#include <QPalette>

namespace vinegar::app {
namespace {

const QString service = QStringLiteral("org.freedesktop.portal.Desktop");
const QString path = QStringLiteral("/org/freedesktop/portal/desktop");
const QString interface = QStringLiteral("org.freedesktop.portal.Settings");
const QString appearance = QStringLiteral("org.freedesktop.appearance");
const QString colourScheme = QStringLiteral("color-scheme");

/// As the toolkit found it, before the program's own themes.
bool startedDark() {
  static const bool dark = QGuiApplication::palette().color(QPalette::Window).lightness() < 110;
  return dark;
}

} // namespace

DesktopLook::DesktopLook(QObject* parent) : QObject(parent), dark_(startedDark()) {
  auto bus = QDBusConnection::sessionBus();
  if (!bus.isConnected()) return;
  bus.connect(service, path, interface, QStringLiteral("SettingChanged"), this,
              SLOT(settingChanged(QString, QString, QDBusVariant)));
  auto question = QDBusMessage::createMethodCall(service, path, interface, QStringLiteral("Read"));
  question << appearance << colourScheme;
  auto* watcher = new QDBusPendingCallWatcher(bus.asyncCall(question), this);
  connect(watcher, &QDBusPendingCallWatcher::finished, this, [this, watcher] {
    const QDBusPendingReply<QDBusVariant> reply = *watcher;
    if (reply.isValid()) take(reply.value().variant());
    watcher->deleteLater();
  });
}

void DesktopLook::settingChanged(const QString& group, const QString& key, const QDBusVariant& value) {
  if (group == appearance && key == colourScheme) take(value.variant());
}

/// 1: dark is wished for, 2: light; 0: no wish.
void DesktopLook::take(const QVariant& value) {
  // Older portals wrap the answer twice.
  const auto plain = value.canConvert<QDBusVariant>() ? value.value<QDBusVariant>().variant() : value;
  const auto wish = plain.toUInt();
  const bool dark = wish == 1 || (wish == 0 && startedDark());
  if (dark == dark_) return;
  dark_ = dark;
  Q_EMIT changed();
}

} // namespace vinegar::app

#include "moc_desktop_look.cpp"
