#include "pages/log_page.h"

#include "plots/response_plot.h"
#include "predict/overview.h"
#include "theme/theme.h"
#include "window/session.h"

#include <QDateTime>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace vinegar::app {
namespace {

QString shortDate(const std::string& iso) {
  const auto when = QDateTime::fromString(QString::fromStdString(iso), Qt::ISODate);
  return when.isValid() ? QLocale().toString(when.toLocalTime(), QStringLiteral("d MMM yyyy HH:mm"))
                        : QString::fromStdString(iso);
}

} // namespace

LogPage::LogPage(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
  setObjectName(QStringLiteral("page"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 8, 14, 6);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel(tr("Log"));
  title->setFont(textFont(14, QFont::DemiBold));
  auto* caption = new QLabel(tr("what was changed, when and why"));
  caption->setProperty("quiet", true);
  head->addWidget(title);
  head->addWidget(caption);
  head->addStretch();
  auto* save = new QPushButton(tr("Export as CSV\u2026"));
  head->addWidget(save);
  column->addLayout(head);
  empty_ = new QLabel(tr("Nothing has been inked yet. Turn a value to pencil it in; \u201cInk it\u201d makes it a "
                         "revision and it appears here."));
  empty_->setProperty("quiet", true);
  empty_->setWordWrap(true);
  column->addWidget(empty_);
  table_ = new QTableWidget(0, 4);
  table_->setObjectName(QStringLiteral("revisions"));
  table_->setAccessibleName(tr("Revisions"));
  table_->setHorizontalHeaderLabels({tr("Rev"), tr("Date"), tr("Changes"), tr("Reason")});
  table_->verticalHeader()->hide();
  table_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
  table_->horizontalHeader()->setSectionResizeMode(3, QHeaderView::Stretch);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->setColumnWidth(0, 44);
  table_->setColumnWidth(1, 140);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setShowGrid(false);
  table_->setTabKeyNavigation(false);
  table_->setWordWrap(true);
  column->addWidget(table_, 2);
  detail_ = new QLabel;
  detail_->setObjectName(QStringLiteral("revisionDetail"));
  detail_->setWordWrap(true);
  detail_->setProperty("quiet", true);
  column->addWidget(detail_);
  plot_ = new ResponsePlot;
  plot_->setNotesShown(false);
  plot_->setLevelLabel(tr("dB, jack to speaker"));
  column->addWidget(plot_, 3);
  connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) { showRevision(row); });
  connect(save, &QPushButton::clicked, this, &LogPage::exportTable);
  refresh();
}

void LogPage::refresh() {
  const auto& document = session_.document();
  const bool any = !document.log.empty();
  empty_->setVisible(!any);
  table_->setVisible(any);
  plot_->setVisible(any);
  detail_->setVisible(any);
  if (shown_ == document.log) return;
  shown_ = document.log;
  const QSignalBlocker block(table_);
  table_->setRowCount(static_cast<int>(document.log.size()));
  for (int row = 0; row < table_->rowCount(); ++row) {
    const auto& revision = document.log[document.log.size() - 1 - static_cast<std::size_t>(row)];
    QStringList changes;
    for (const auto& change : revision.changes)
      changes << QString::fromStdString(amp::describe(change, document.ink, session_.library()));
    const QStringList texts{QString::number(revision.number), shortDate(revision.date),
                            changes.join(QStringLiteral(", ")), QString::fromStdString(revision.reason)};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(texts[c]);
      item->setToolTip(texts[c]);
      if (c < 2) item->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
      table_->setItem(row, c, item);
    }
  }
  table_->resizeRowsToContents();
  if (table_->rowCount() > 0) {
    table_->setCurrentCell(0, 0);
    showRevision(0);
  }
}

void LogPage::showRevision(int row) {
  if (row < 0 || static_cast<std::size_t>(row) >= shown_.size()) return;
  const auto revision = shown_[shown_.size() - 1 - static_cast<std::size_t>(row)];
  work_.ask([this, revision, document = session_.document(), &library = session_.library()]() -> LatestWins::Deliver {
    const predict::OverviewQuestion question{"jack", "speaker", circuit::logSpaced(10, 100000, 300), {}};
    const auto after = predict::predictOverview(amp::atRevision(document, library, revision.number), library, question);
    const auto before =
        predict::predictOverview(amp::atRevision(document, library, revision.number - 1), library, question);
    return [this, revision, before, after] {
      if (!before || !after) {
        plot_->setProblem(QString::fromStdString((before ? after.error() : before.error()).line()));
        return;
      }
      plot_->setCurves({{tr("before"), before->response, true, false},
                        {tr("after revision %1").arg(revision.number), after->response, false, true}});
      const auto& a = before->vitals;
      const auto& b = after->vitals;
      detail_->setText(tr("Revision %1: gain at 1 kHz %2 to %3 dB, E2 %4 to %5 dB, at the knobs as they stand now.")
                           .arg(revision.number)
                           .arg(a.gain.at1kHz, 0, 'f', 1)
                           .arg(b.gain.at1kHz, 0, 'f', 1)
                           .arg(a.gain.atE2, 0, 'f', 1)
                           .arg(b.gain.atE2, 0, 'f', 1));
    };
  });
}

void LogPage::restyle() { plot_->restyle(); }

void LogPage::exportTable() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export the log"), QStringLiteral("log.csv"), tr("Figures (*.csv)"));
  if (path.isEmpty()) return;
  QString csv = QStringLiteral("revision,date,changes,reason\n");
  const auto quoted = [](QString text) {
    return QLatin1Char('"') + text.replace(QLatin1Char('"'), QStringLiteral("\"\"")) + QLatin1Char('"');
  };
  for (int row = table_->rowCount() - 1; row >= 0; --row) {
    QStringList cells;
    for (int c = 0; c < 4; ++c)
      cells << quoted(table_->item(row, c)->text());
    csv += cells.join(QLatin1Char(',')) + QLatin1Char('\n');
  }
  if (const auto problem = files::saveAtomically(path.toStdString(), csv.toStdString()))
    Q_EMIT failed(QString::fromStdString(problem->line()));
}

} // namespace vinegar::app
