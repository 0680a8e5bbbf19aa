#include "theme/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <QStyle>
#include <QStyleFactory>

namespace vinegar::app {
namespace {

const Theme* current = &vellum();
QString textFamily, figureFamily;

QString styleSheet(const Theme& t) {
  QString sheet = QStringLiteral(R"(
QAbstractItemView, QPushButton, QToolButton, QCheckBox { outline: none; }
QMainWindow, QDialog, #page, #pageStack { background: @ground; }
#head, #rail, #drawer, #drawerBody { background: @panel; }
#head { border-bottom: 1px solid @hairline; }
#drawer { border: none; border-left: 1px solid @hairline; }
#notice { background: @panel; border-bottom: 1px solid @pencil; }
#noticeDanger { background: @panel; border-bottom: 2px solid @danger; }
QLabel[quiet="true"] { color: @quiet; }
QLabel[pencil="true"] { color: @pencil; }
QLabel[danger="true"] { color: @danger; }
QPushButton, QToolButton { background: transparent; border: 1px solid @hairline; border-radius: 10px; padding: 3px 12px; min-height: 16px; }
QPushButton:hover, QToolButton:hover { border-color: @quiet; }
QPushButton:focus, QToolButton:focus { border: 2px solid @signal; padding: 2px 11px; }
QPushButton:pressed, QToolButton:pressed { background: @hairline; }
QPushButton:disabled, QToolButton:disabled { color: @quiet; }
QPushButton:checked, QToolButton:checked, QPushButton[strong="true"] { background: @ink; color: @ground; border-color: @ink; }
QPushButton[strong="true"]:disabled { background: transparent; color: @quiet; border-color: @hairline; }
QToolButton::menu-indicator { image: none; }
#rail QPushButton { text-align: left; border: none; border-radius: 0; border-left: 4px solid transparent; padding: 9px 14px; font-size: 11pt; }
#rail QPushButton:checked { background: @ground; color: @ink; border-left: 4px solid @ink; font-weight: 600; }
#rail QPushButton:focus { border: 2px solid @signal; border-left: 4px solid @signal; padding: 7px 12px 7px 14px; }
#marks { border: 1px dashed @pencil; border-radius: 10px; padding: 3px 12px; color: @pencil; font-weight: 600; }
#marks[none="true"] { border: 1px dashed @hairline; color: @quiet; font-weight: 400; }
QLineEdit, QComboBox, QPlainTextEdit, QAbstractSpinBox { background: @ground; border: 1px solid @hairline; border-radius: 4px; padding: 3px 6px; selection-background-color: @signal; selection-color: @ground; }
QLineEdit:focus, QComboBox:focus, QPlainTextEdit:focus { border: 2px solid @signal; padding: 2px 5px; }
QLineEdit[bad="true"] { border: 2px solid @danger; padding: 2px 5px; }
QFileDialog QToolButton { padding: 3px; border-radius: 4px; }
QFileDialog QToolButton:focus { padding: 2px; }
QTableView QLineEdit, QTableView QLineEdit:focus { border: none; border-radius: 0; padding: 0px 5px; }
#find { border-radius: 10px; padding: 3px 12px; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(:/arrow-@name.svg); width: 12px; height: 12px; }
QAbstractItemView { background: @ground; border: 1px solid @hairline; selection-background-color: @hairline; selection-color: @ink; }
QHeaderView { background: @panel; }
QHeaderView::section { background: @panel; border: none; border-bottom: 1px solid @hairline; padding: 4px 3px; color: @quiet; }
QTableView { gridline-color: @hairline; border: 1px solid @hairline; }
QTableView:focus { border: 2px solid @signal; }
QTableView::item { padding: 4px 8px; }
QMenu { background: @panel; border: 1px solid @hairline; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 12px; }
QMenu::item:selected { background: @hairline; }
QMenu::item:disabled { color: @quiet; }
QMenu::separator { height: 1px; background: @hairline; margin: 4px; }
QToolTip { background: @panel; color: @ink; border: 1px solid @hairline; padding: 3px; }
QScrollArea { border: none; background: transparent; }
QScrollBar:horizontal { height: 10px; background: transparent; } QScrollBar:vertical { width: 10px; background: transparent; }
QScrollBar::handle { background: @hairline; border-radius: 4px; min-width: 24px; min-height: 24px; margin: 1px; }
QScrollBar::handle:hover { background: @quiet; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QSplitter::handle { background: @hairline; }
QSplitter::handle:vertical { height: 1px; }
QSlider::groove:horizontal { height: 2px; background: @quiet; }
QSlider::handle:horizontal { background: @ink; width: 10px; margin: -7px 0; border-radius: 3px; }
QSlider:focus { border: 1px solid @signal; border-radius: 4px; }
QCheckBox:focus { color: @signal; }
QCheckBox::indicator { width: 13px; height: 13px; border: 1px solid @quiet; border-radius: 3px; background: @ground; }
QCheckBox::indicator:checked { background: @ink; border-color: @ink; image: url(:/check-@name.svg); }
#vitals { background: @footer; }
#vitals QPushButton { border: none; border-radius: 0; text-align: left; padding: 6px 10px; min-height: 40px; }
#vitals QPushButton:focus { border: 2px solid @footerPencil; padding: 4px 8px; }
#vitals QLabel { color: @footerText; }
#vitals QLabel[quiet="true"] { color: @footerQuiet; }
)");
  sheet.replace(QLatin1String("@name"), t.name);
  const std::pair<const char*, QColor> colours[] = {{"@footerText", t.footerText},
                                                    {"@footerQuiet", t.footerQuiet},
                                                    {"@footerPencil", t.footerPencil},
                                                    {"@footer", t.footer},
                                                    {"@ground", t.ground},
                                                    {"@panel", t.panel},
                                                    {"@hairline", t.hairline},
                                                    {"@ink", t.ink},
                                                    {"@quiet", t.quiet},
                                                    {"@pencil", t.pencil},
                                                    {"@signal", t.signal},
                                                    {"@danger", t.danger}};
  for (const auto& [key, colour] : colours)
    sheet.replace(QLatin1String(key), colour.name());
  return sheet;
}

} // namespace

const Theme& vellum() {
  static const Theme t{.name = QStringLiteral("vellum"),
                       .ground = "#FBF8F1",
                       .panel = "#F3EEE2",
                       .hairline = "#D9D2C3",
                       .ink = "#1E2B4F",
                       .quiet = "#5F6373",
                       .pencil = "#B34E08",
                       .pencilLine = "#D9691E",
                       .signal = "#176F69",
                       .danger = "#B3261E",
                       .footer = "#1E2B4F",
                       .footerText = "#FBF8F1",
                       .footerQuiet = "#B9C0D6",
                       .footerPencil = "#FFB27A"};
  return t;
}

const Theme& lamp() {
  static const Theme t{.name = QStringLiteral("lamp"),
                       .ground = "#191C24",
                       .panel = "#20242E",
                       .hairline = "#343A48",
                       .ink = "#E6E9F2",
                       .quiet = "#9AA1B4",
                       .pencil = "#FF9A52",
                       .pencilLine = "#FF9A52",
                       .signal = "#4FC3B8",
                       .danger = "#FF6B5E",
                       .footer = "#12141A",
                       .footerText = "#E6E9F2",
                       .footerQuiet = "#9AA1B4",
                       .footerPencil = "#FF9A52"};
  return t;
}

const Theme& theme() { return *current; }

OnPaper::OnPaper() : before_(current) {
  static const Theme paper = [] {
    Theme t = vellum();
    t.ground = Qt::white;
    return t;
  }();
  current = &paper;
}
OnPaper::~OnPaper() { current = before_; }

void applyTheme(const QString& name) {
  current = name == lamp().name ? &lamp() : &vellum();
  const Theme& t = *current;
  // Worn already: every widget there is would be dressed anew, which takes as long as making it.
  const auto sheet = styleSheet(t);
  if (qApp->styleSheet() == sheet) return;
  QPalette palette;
  palette.setColor(QPalette::Window, t.ground);
  palette.setColor(QPalette::Base, t.ground);
  palette.setColor(QPalette::AlternateBase, t.panel);
  palette.setColor(QPalette::Button, t.panel);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
    palette.setColor(role, t.ink);
  palette.setColor(QPalette::PlaceholderText, t.quiet);
  palette.setColor(QPalette::Highlight, t.signal);
  palette.setColor(QPalette::HighlightedText, t.ground);
  palette.setColor(QPalette::ToolTipBase, t.panel);
  palette.setColor(QPalette::ToolTipText, t.ink);
  if (!qApp->style() || qApp->style()->name() != QLatin1String("fusion"))
    qApp->setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
  qApp->setPalette(palette);
  qApp->setFont(textFont(10));
  // One sheet put in another's place dresses each widget once for every widget it stands in; taken off and put on,
  // once.
  qApp->setStyleSheet({});
  qApp->setStyleSheet(sheet);
}

bool loadFonts(const QString& dataFolder) {
  bool all = true;
  const auto load = [&](const QString& file, QString& family) {
    const int id = QFontDatabase::addApplicationFont(dataFolder + QStringLiteral("/fonts/") + file);
    if (id < 0)
      all = false;
    else if (family.isEmpty())
      family = QFontDatabase::applicationFontFamilies(id).value(0);
  };
  load(QStringLiteral("Inter-Regular.otf"), textFamily);
  for (const auto* weight : {"Medium", "SemiBold", "Bold"})
    load(QStringLiteral("Inter-%1.otf").arg(QLatin1String(weight)), textFamily);
  load(QStringLiteral("JetBrainsMono-Regular.ttf"), figureFamily);
  load(QStringLiteral("JetBrainsMono-SemiBold.ttf"), figureFamily);
  return all;
}

QFont textFont(double points, QFont::Weight weight) {
  QFont font = textFamily.isEmpty() ? QFontDatabase::systemFont(QFontDatabase::GeneralFont) : QFont(textFamily);
  font.setPointSizeF(points);
  font.setWeight(weight);
  return font;
}

QFont figureFont(double points, QFont::Weight weight) {
  QFont font = figureFamily.isEmpty() ? QFontDatabase::systemFont(QFontDatabase::FixedFont) : QFont(figureFamily);
  font.setPointSizeF(points);
  font.setWeight(weight);
  // A fixed pitch needs no kerning and figures no ligatures; without shaping, text is several times faster.
  font.setKerning(false);
  font.setStyleStrategy(QFont::PreferNoShaping);
  return font;
}

} // namespace vinegar::app
