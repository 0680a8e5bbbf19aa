#include "window/main_menu.h"

#include "theme/text.h"
#include "theme/theme.h"
#include "window/actions.h"

#include <QActionGroup>
#include <QCoreApplication>
#include <QFileInfo>
#include <QMessageBox>
#include <cmath>

namespace vinegar::app {

MainMenu::MainMenu(Actions& actions, Documents& documents, Settings& settings, QWidget* parent)
    : QMenu(parent), documents_(documents), settings_(settings), themes_(new QActionGroup(this)) {
  const auto add = [&](QMenu* to, std::initializer_list<const char*> ids) {
    for (const auto* id : ids)
      to->addAction(actions.action(id));
  };
  auto* menu = this;
  add(menu, {"new", "open"});
  auto* samples = menu->addMenu(tr("Open a sample"));
  for (const auto& id : documents_.samples())
    samples->addAction(menuText(Documents::sampleTitle(id)), this, [this, id] {
      if (documents_.mayDiscard()) documents_.openSample(id);
    });
  auto* recent = menu->addMenu(tr("Recent"));
  connect(recent, &QMenu::aboutToShow, this, [this, recent] { fillRecent(recent); });
  menu->addSeparator();
  add(menu, {"save", "save-as", "rename", "renumber", "print-run"});
  add(menu->addMenu(tr("Your own")), {"keep-skeleton", "import-own", "reread-own"});
  menu->addSeparator();
  add(menu, {"undo", "redo", "rub-out", "ink"});
  menu->addSeparator();
  auto* view = menu->addMenu(tr("View"));
  add(view, {"arrange", "show-run", "zigzag", "run-size"});
  addThemes(view->addMenu(tr("Light or dark")));
  addScales(view->addMenu(tr("Size of everything")));
  menu->addSeparator();
  add(menu, {"keys", "about", "quit"});
}

void MainMenu::addThemes(QMenu* menu) {
  for (const auto& [id, title] : {std::pair{QString(), tr("As the desktop")},
                                  {vellum().name, tr("Vellum, light")},
                                  {lamp().name, tr("Lamp, dark")}}) {
    auto* action = menu->addAction(title);
    action->setCheckable(true);
    action->setData(id);
    themes_->addAction(action);
    connect(action, &QAction::triggered, this, [this, id = id] { Q_EMIT themeWanted(id); });
  }
}

void MainMenu::addScales(QMenu* menu) {
  auto* group = new QActionGroup(this);
  for (const double scale : {1.0, 1.25, 1.5, 1.75, 2.0}) {
    auto* action = menu->addAction(QStringLiteral("%1 %").arg(scale * 100));
    action->setCheckable(true);
    action->setChecked(std::abs(settings_.scale - scale) < 0.01);
    group->addAction(action);
    connect(action, &QAction::triggered, this, [this, scale] {
      settings_.scale = scale;
      settings_.save();
      Q_EMIT said(tr("The new size is used from the next start."));
    });
  }
}

void MainMenu::fillRecent(QMenu* menu) {
  menu->clear();
  for (const auto& path : settings_.recent) {
    auto* action = menu->addAction(menuText(QFileInfo(path).fileName()), this, [this, path] {
      if (documents_.mayDiscard()) documents_.open(path);
    });
    action->setToolTip(plainTip(path));
    action->setEnabled(QFileInfo::exists(path));
  }
  if (settings_.recent.isEmpty()) menu->addAction(tr("Nothing yet"))->setEnabled(false);
}

void MainMenu::showTheme(const QString& name) {
  for (auto* action : themes_->actions())
    action->setChecked(action->data().toString() == name);
}

void showAbout(QWidget* window) {
  auto* box = new QMessageBox(
      QMessageBox::NoIcon, tr("About Vinegar"),
      tr("Vinegar %1\nA workbench for tube amplifiers.\n\nThese circuits hold voltages that can kill, also after "
         "switch-off. Follow your local codes; leave mains wiring to a licensed person when in doubt.\n\n"
         "GPL-3.0-or-later. Fonts: Inter and JetBrains Mono, SIL Open Font License.")
          .arg(QCoreApplication::applicationVersion()),
      QMessageBox::Close, window);
  box->setAttribute(Qt::WA_DeleteOnClose);
  box->open();
}

} // namespace vinegar::app

#include "moc_main_menu.cpp"
