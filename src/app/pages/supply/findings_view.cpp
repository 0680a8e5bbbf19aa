#include "pages/supply/findings_view.h"

#include "predict/supply/held.h"
#include "theme/text.h"
#include "theme/theme.h"
#include "widgets/readings.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QVBoxLayout>
#include <cmath>

namespace vinegar::app {

FindingsView::FindingsView(Page& page) : TextView(page, tr("findings"), "supplyFindings", tr("Findings"), {}) {
  connect(&text(), &QTextBrowser::anchorClicked, this, &FindingsView::open);
  connect(&page.context().findings, &FindingsDesk::changed, this, &FindingsView::draw);
}

void FindingsView::open(const QUrl& link) {
  if (link.scheme() == QStringLiteral("safety")) return showSafety();
  // By number: a part may be called anything, and a link may not.
  const auto index = static_cast<std::size_t>(link.path().toUInt());
  const auto& findings = page().context().findings.findings();
  if (index < findings.size()) page().context().selection.select(findings[index].part);
}

void FindingsView::draw() {
  const auto& desk = page().context().findings;
  const auto* now = page().context().asker.idle().nowValue();
  const auto& t = theme();
  QString html;
  QString unchecked;
  if (desk.problem())
    unchecked = tr("Nothing was checked, since this design has no answer. %1")
                    .arg(QString::fromStdString(desk.problem()->line()));
  else if (now && !now->point.supply)
    unchecked = tr("Only the parts' own ratings were checked: this design has no mains.");
  if (!unchecked.isEmpty())
    html += QStringLiteral("<p style='color:%1'><b>").arg(t.danger.name()) + warned(unchecked).toHtmlEscaped() +
            QStringLiteral("</b></p>");
  else if (desk.unplayed())
    html += QStringLiteral("<p>%1</p>")
                .arg(tr("What a hard chord does is not known: %1")
                         .arg(QString::fromStdString(desk.unplayed()->line()))
                         .toHtmlEscaped());
  else if (desk.findings().empty())
    html += QStringLiteral("<p>%1</p>")
                .arg(tr("Nothing found at idle, with the tubes out, after switch-off, and under a hard chord of %1 "
                        "peak at the jack.")
                         .arg(readingOf(audit::loudestPeak, Unit::volt, 2)));
  for (std::size_t i = 0; i < desk.findings().size(); ++i) {
    const auto& finding = desk.findings()[i];
    const auto name = finding.part.empty() ? tr("Supply") : QString::fromStdString(finding.part);
    if (finding.danger)
      html += QStringLiteral("<p><span style='color:%1'><b>%2</b></span> ").arg(t.danger.name(), warned(tr("Danger")));
    else
      html += QStringLiteral("<p>");
    // The builder's words last, so that no "%1" in them is filled in.
    html += QStringLiteral("<a href='finding:%1' style='color:%2'><b>").arg(QString::number(i), t.ink.name()) +
            name.toHtmlEscaped() + QStringLiteral("</b></a> ") + QString::fromStdString(finding.what).toHtmlEscaped() +
            QStringLiteral("<br/><span style='color:%1'>").arg(t.quiet.name()) +
            QString::fromStdString(finding.cure).toHtmlEscaped() + QStringLiteral("</span></p>");
  }
  html += QStringLiteral("<p><a href='safety:' style='color:%1'>%2</a></p>")
              .arg(t.signal.name(), tr("Before your hands go in: the safety rules"));
  text().setHtml(html);
}

void FindingsView::showSafety() {
  auto* dialog = new QDialog(this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setObjectName(QStringLiteral("safety"));
  const auto& safety = audit::safetyText();
  dialog->setWindowTitle(QString::fromStdString(safety.title));
  auto* column = new QVBoxLayout(dialog);
  for (const auto& paragraph : safety.paragraphs) {
    auto* text = new Label(QString::fromStdString(paragraph));
    text->setWordWrap(true);
    column->addWidget(text);
  }
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
  connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::close);
  column->addWidget(buttons);
  dialog->resize(520, 380);
  dialog->open();
}

} // namespace vinegar::app

#include "moc_findings_view.cpp"
