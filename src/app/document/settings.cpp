#include "document/settings.h"

#include <QSettings>
#include <algorithm>

namespace vinegar::app {

Settings Settings::load() {
  const QSettings store;
  Settings s;
  s.theme = store.value(QStringLiteral("theme"), s.theme).toString();
  s.resistors = store.value(QStringLiteral("resistors")).toString() == QLatin1String("zigzag") ? ResistorStyle::zigzag
                                                                                               : ResistorStyle::box;
  s.scale = std::clamp(store.value(QStringLiteral("scale"), 1.0).toDouble(), 1.0, 2.0);
  s.runZoom = std::clamp(store.value(QStringLiteral("runZoom"), 1.0).toDouble(), 0.4, 4.0);
  s.runShown = store.value(QStringLiteral("runShown"), true).toBool();
  s.page = store.value(QStringLiteral("page"), s.page).toString();
  s.recent = store.value(QStringLiteral("recent")).toStringList();
  s.geometry = store.value(QStringLiteral("geometry")).toByteArray();
  for (const auto& page : store.value(QStringLiteral("viewsOf")).toStringList())
    s.views[page] = store.value(QStringLiteral("view-") + page).toByteArray();
  for (const auto& page : store.value(QStringLiteral("splittersOf")).toStringList())
    s.splitters[page] = store.value(QStringLiteral("splitter-") + page).toByteArray();
  return s;
}

void Settings::save() const {
  QSettings store;
  store.setValue(QStringLiteral("theme"), theme);
  store.setValue(QStringLiteral("resistors"),
                 resistors == ResistorStyle::zigzag ? QStringLiteral("zigzag") : QStringLiteral("box"));
  store.setValue(QStringLiteral("scale"), scale);
  store.setValue(QStringLiteral("runZoom"), runZoom);
  store.setValue(QStringLiteral("runShown"), runShown);
  store.setValue(QStringLiteral("page"), page);
  store.setValue(QStringLiteral("recent"), recent);
  store.setValue(QStringLiteral("geometry"), geometry);
  store.setValue(QStringLiteral("viewsOf"), QStringList(views.keys()));
  for (auto view = views.begin(); view != views.end(); ++view)
    store.setValue(QStringLiteral("view-") + view.key(), view.value());
  store.setValue(QStringLiteral("splittersOf"), QStringList(splitters.keys()));
  for (auto one = splitters.begin(); one != splitters.end(); ++one)
    store.setValue(QStringLiteral("splitter-") + one.key(), one.value());
}

void Settings::addRecent(const QString& path) {
  recent.removeAll(path);
  recent.prepend(path);
  while (recent.size() > 10)
    recent.removeLast();
}

} // namespace vinegar::app
