#include "pages/feel/phrase_box.h"

#include "theme/text.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QThread>

namespace vinegar::app {
namespace {
const auto recordingId = QStringLiteral("recording");
const auto openId = QStringLiteral("open");
} // namespace

PhraseBox::PhraseBox(const QString& dataFolder) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  const auto box = [&](const char* name, const QString& about, int width) {
    auto* combo = new QComboBox;
    combo->setObjectName(QLatin1String(name));
    combo->setAccessibleName(about);
    combo->setToolTip(plainTip(about));
    combo->setMinimumWidth(90);
    combo->setMaximumWidth(width);
    row->addWidget(combo);
    return combo;
  };
  phrase_ = box("phrase", tr("What is played"), 170);
  instrument_ = box("instrument", tr("What it is played on"), 150);
  if (auto read = files::readPhrases(dataFolder.toStdString()))
    phrases_ = std::move(*read);
  else
    problem_ = read.error();
  for (const auto& phrase : phrases_.phrases)
    phrase_->addItem(tr(phrase.title.c_str()), QString::fromStdString(phrase.id));
  phrase_->addItem(tr("A recording of your own..."), openId);
  for (const auto& instrument : phrases_.instruments)
    instrument_->addItem(tr(instrument.title.c_str()), QString::fromStdString(instrument.id));
  make();
  connect(phrase_, &QComboBox::activated, this, [this] {
    if (phrase_->currentData() == openId) {
      Q_EMIT recordingWanted();
      make(); // where none was opened, what was played stays
      return;
    }
    make();
    Q_EMIT chosen();
  });
  connect(instrument_, &QComboBox::activated, this, [this] {
    make();
    Q_EMIT chosen();
  });
}

void PhraseBox::make() {
  if (problem_) return;
  const auto id = phrase_->currentData().toString();
  if (id == openId) { // back to what is played
    const QSignalBlocker quiet(phrase_);
    phrase_->setCurrentIndex(std::max(0, sound_ == recording_ && recording_ ? phrase_->findData(recordingId) : 0));
    if (sound_ == recording_ && recording_) return;
  }
  instrument_->setEnabled(phrase_->currentData() != recordingId);
  if (phrase_->currentData() == recordingId) {
    sound_ = recording_;
    return;
  }
  const auto phrase = static_cast<std::size_t>(phrase_->currentIndex());
  const auto instrument = static_cast<std::size_t>(std::max(0, instrument_->currentIndex()));
  if (phrase < phrases_.phrases.size())
    sound_ = std::make_shared<const predict::Sound>(phrases_.phrases[phrase], phrases_.instruments[instrument]);
}

void PhraseBox::openRecording(const QString& path) {
  using Read = tl::expected<std::shared_ptr<const predict::Sound>, Problem>;
  const auto read = std::make_shared<Read>(tl::unexpected(Problem{}));
  auto* worker = QThread::create([read, path = path.toStdString()] { *read = files::readRecording(path); });
  // The last that was asked for is the one that is played.
  connect(worker, &QThread::finished, this, [this, read, number = ++opened_] {
    if (number != opened_) return;
    if (*read)
      take(std::move(**read));
    else
      Q_EMIT refused(QString::fromStdString(read->error().line()));
  });
  connect(worker, &QThread::finished, worker, &QObject::deleteLater);
  worker->start();
}

void PhraseBox::take(std::shared_ptr<const predict::Sound> recording) {
  recording_ = std::move(recording);
  const auto title = QString::fromStdString(recording_->title());
  int at = phrase_->findData(recordingId);
  if (at < 0) {
    at = phrase_->count() - 1;
    phrase_->insertItem(at, title, recordingId);
  }
  phrase_->setItemText(at, title);
  phrase_->setCurrentIndex(at);
  make();
  Q_EMIT chosen();
}

QString PhraseBox::choice() const {
  return phrase_->currentData().toString() + QLatin1Char(' ') + instrument_->currentData().toString();
}

void PhraseBox::choose(const QString& choice) {
  const auto parts = choice.split(QLatin1Char(' '));
  if (parts.size() != 2) return;
  const int phrase = phrase_->findData(parts[0]), instrument = instrument_->findData(parts[1]);
  if (phrase < 0 || instrument < 0 || parts[0] == openId) return;
  phrase_->setCurrentIndex(phrase);
  instrument_->setCurrentIndex(instrument);
  make();
  Q_EMIT chosen();
}

QString PhraseBox::about() const {
  const auto phrase = static_cast<std::size_t>(phrase_->currentIndex());
  return phrase < phrases_.phrases.size() ? tr(phrases_.phrases[phrase].about.c_str()) : QString();
}

} // namespace vinegar::app

#include "moc_phrase_box.cpp"
