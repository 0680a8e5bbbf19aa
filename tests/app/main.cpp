#include "support/paths.h"
#include "theme/theme.h"

#include <QApplication>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <gtest/gtest.h>

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  // Settings and safety copies go to a folder of this run's own.
  static QTemporaryDir home;
  for (const char* variable : {"HOME", "XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_RUNTIME_DIR"})
    qputenv(variable, home.path().toUtf8());
  if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QCoreApplication::setOrganizationName(QStringLiteral("vinegar-test"));
  QCoreApplication::setApplicationName(QStringLiteral("vinegar-test"));
  QApplication application(argc, argv);
  vinegar::app::loadFonts(QString::fromStdString(vinegar::testing_support::folder("data")));
  return RUN_ALL_TESTS();
}
