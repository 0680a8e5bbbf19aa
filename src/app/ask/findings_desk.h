#pragma once

#include "ask/asker.h"
#include "audit/supply_rules.h"

#include <QTimer>

namespace vinegar::app {

/// What is wrong with what stands now, pencil or ink, at rest and when it is played: read by run, drawer, vitals and
/// pages. Worked out when the builder has stopped turning for a moment; until then the former findings stay.
class FindingsDesk : public QObject {
  Q_OBJECT
public:
  /// `chord`: a player's loudest; null where it could not be read.
  FindingsDesk(Asker& asker, std::shared_ptr<const predict::Sound> chord, QObject* parent = nullptr);

  /// After the asker: the document has changed.
  void follow();
  void startAfresh();
  [[nodiscard]] const std::vector<audit::Finding>& findings() const { return findings_; }
  /// Why nothing could be checked; null where it was.
  [[nodiscard]] const Problem* problem() const { return problem_ ? &*problem_ : nullptr; }
  /// Why it is not known what a hard chord does; null where it is.
  [[nodiscard]] const Problem* unplayed() const { return unplayed_ ? &*unplayed_ : nullptr; }
  /// Nothing asked or to be asked.
  [[nodiscard]] bool quiet() const {
    return !soon_.isActive() && !later_.isActive() && !asking_.busy() && !playing_.busy();
  }

Q_SIGNALS:
  void changed();

private:
  void put();

  Asking<audit::AuditQuestion, std::vector<audit::Finding>> asking_;
  Asking<audit::PlayedAuditQuestion, std::vector<audit::Finding>> playing_; ///< after the other: it takes longer
  QTimer soon_, later_;
  std::vector<audit::Finding> atRest_, played_, findings_;
  std::optional<Problem> problem_, unplayed_;
};

} // namespace vinegar::app
