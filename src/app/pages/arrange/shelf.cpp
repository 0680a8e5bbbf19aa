#include "pages/arrange/shelf.h"

#include "theme/theme.h"

#include <QCoreApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

/// How well words fit a section, the better the later.
enum class Match { none, description, title, wholeWords, start };

/// The words in this order at the title's beginning, all whole in it, all in it, or all in it and what it is for.
Match match(const amp::SectionTemplate& section, const QStringList& words) {
  const auto title = QString::fromStdString(section.title);
  const auto all = title + QLatin1Char(' ') + QString::fromStdString(section.use + " " + section.group);
  const auto every = [&](const auto& holds) { return std::all_of(words.begin(), words.end(), holds); };
  if (title.startsWith(words.join(QLatin1Char(' ')), Qt::CaseInsensitive)) return Match::start;
  if (every([&, parts = title.split(QLatin1Char(' '))](const QString& word) {
        return parts.contains(word, Qt::CaseInsensitive);
      }))
    return Match::wholeWords;
  if (every([&](const QString& word) { return title.contains(word, Qt::CaseInsensitive); })) return Match::title;
  return every([&](const QString& word) { return all.contains(word, Qt::CaseInsensitive); }) ? Match::description
                                                                                             : Match::none;
}

QString groupTitle(const std::string& group) {
  static const std::map<std::string, const char*> titles{
      {"input", QT_TRANSLATE_NOOP("Shelf", "Input")},         {"gain", QT_TRANSLATE_NOOP("Shelf", "Gain")},
      {"tone", QT_TRANSLATE_NOOP("Shelf", "Tone")},           {"level", QT_TRANSLATE_NOOP("Shelf", "Level")},
      {"splitting", QT_TRANSLATE_NOOP("Shelf", "Splitting")}, {"power", QT_TRANSLATE_NOOP("Shelf", "Power")},
      {"feedback", QT_TRANSLATE_NOOP("Shelf", "Feedback")},   {"effects", QT_TRANSLATE_NOOP("Shelf", "Effects")},
      {"speaker", QT_TRANSLATE_NOOP("Shelf", "Speaker")},     {"supply", QT_TRANSLATE_NOOP("Shelf", "Supply")}};
  return QCoreApplication::translate("Shelf", titles.at(group));
}

} // namespace

Shelf::Shelf(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  filter_ = new QLineEdit;
  filter_->setObjectName(QStringLiteral("shelfFilter"));
  filter_->setPlaceholderText(tr("Filter the shelf"));
  filter_->setClearButtonEnabled(true);
  filter_->installEventFilter(this);
  column->addWidget(filter_);
  list_ = new QListWidget;
  list_->setObjectName(QStringLiteral("shelf"));
  list_->setAccessibleName(tr("The shelf: every section there is"));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setTextElideMode(Qt::ElideRight);
  list_->setMinimumWidth(200);
  column->addWidget(list_, 1);
  connect(filter_, &QLineEdit::textChanged, this, &Shelf::fill);
  connect(filter_, &QLineEdit::returnPressed, this, &Shelf::taken);
  connect(list_, &QListWidget::currentRowChanged, this, &Shelf::lookedAt);
  connect(list_, &QListWidget::itemActivated, this, &Shelf::taken);
}

void Shelf::setCandidates(std::vector<amp::Candidate> candidates, const std::string& group) {
  group_ = group;
  candidates_ = std::move(candidates);
  fill();
}

void Shelf::fill() {
  const auto* before = looked();
  const auto stays = before ? before->section->id : std::string();
  const QSignalBlocker quiet(list_);
  list_->clear();
  const auto words = filter_->text().split(QLatin1Char(' '), Qt::SkipEmptyParts);
  const auto matchOf = [&](const amp::Candidate& one) { return match(*one.section, words); };
  const auto addHead = [&](const QString& title) {
    auto* head = new QListWidgetItem(title, list_);
    head->setFlags(Qt::NoItemFlags);
    auto font = textFont(9, QFont::DemiBold);
    head->setFont(font);
    head->setForeground(theme().quiet);
  };
  int first = -1, again = -1;
  Match best = Match::none;
  const auto add = [&](std::size_t i, bool fits) {
    const auto& one = candidates_[i];
    auto* item = new QListWidgetItem(!one.section->ownText.empty()
                                         ? tr("%1 (yours)").arg(QString::fromStdString(one.section->title))
                                         : QString::fromStdString(one.section->title),
                                     list_);
    item->setData(Qt::UserRole, static_cast<int>(i));
    if (!fits) {
      item->setForeground(theme().quiet);
      item->setToolTip(QString::fromStdString(one.why));
    }
    if (fits && matchOf(one) > best) {
      best = matchOf(one);
      first = list_->count() - 1;
    }
    if (one.section->id == stays) again = list_->count() - 1;
  };
  std::vector<std::string> groups(amp::sectionGroups.begin(), amp::sectionGroups.end());
  std::stable_sort(groups.begin(), groups.end(),
                   [&](const std::string& a, const std::string& b) { return (a == group_) > (b == group_); });
  for (const auto& group : groups) {
    bool headed = false;
    for (std::size_t i = 0; i < candidates_.size(); ++i)
      if (candidates_[i].why.empty() && candidates_[i].section->group == group &&
          matchOf(candidates_[i]) != Match::none) {
        if (!headed) addHead(groupTitle(group));
        headed = true;
        add(i, true);
      }
  }
  bool headed = false;
  for (std::size_t i = 0; i < candidates_.size(); ++i)
    if (!candidates_[i].why.empty() && matchOf(candidates_[i]) != Match::none) {
      if (!headed) addHead(tr("Does not fit here"));
      headed = true;
      add(i, false);
    }
  // Who types looks for what fits the words best; who does not stays where he was.
  list_->setCurrentRow(again >= 0 && words.isEmpty() ? again : first);
  Q_EMIT lookedAt();
}

const amp::Candidate* Shelf::looked() const {
  const auto* item = list_->currentItem();
  const auto data = item ? item->data(Qt::UserRole) : QVariant();
  const auto index = data.isValid() ? static_cast<std::size_t>(data.toInt()) : candidates_.size();
  return index < candidates_.size() ? &candidates_[index] : nullptr;
}

void Shelf::showAll() { filter_->clear(); }

void Shelf::startTyping() {
  filter_->setFocus();
  filter_->selectAll();
}

bool Shelf::eventFilter(QObject* watched, QEvent* event) {
  // With nothing typed there is nothing to undo but the act before.
  if (watched == filter_ && event->type() == QEvent::ShortcutOverride && filter_->text().isEmpty()) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->matches(QKeySequence::Undo) || key->matches(QKeySequence::Redo)) {
      event->ignore();
      return true;
    }
  }
  if (watched == filter_ && event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    if (key->key() == Qt::Key_Down || key->key() == Qt::Key_Up) {
      // Past the heads, which cannot be looked at.
      const int step = key->key() == Qt::Key_Down ? 1 : -1;
      for (int row = list_->currentRow() + step; row >= 0 && row < list_->count(); row += step)
        if (list_->item(row)->flags() != Qt::NoItemFlags) {
          list_->setCurrentRow(row);
          break;
        }
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

} // namespace vinegar::app

#include "moc_shelf.cpp"
