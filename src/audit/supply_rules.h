// Room: ratings and safety. One rule, one function, one finding type.
#pragma once

#include "predict/feel/phrase.h"
#include "predict/rest/ratings.h"
#include "predict/supply/supply.h"

#include <memory>

namespace vinegar::audit {

struct Finding {
  std::string part;                           ///< the name of a part, or empty: the whole supply
  std::string what;                           ///< one sentence with the numbers
  std::string cure;                           ///< what to do, one sentence
  bool danger = false;                        ///< to people, not to parts alone
  std::optional<predict::Rating> rating = {}; ///< the values of `what`, where it is of a limit
  bool operator==(const Finding&) const = default;
};

/// Every finding on a design at idle, in order of danger: the supply's where it runs from the mains, and every part
/// whose rating is stated. Solves the discharge and the state without tubes besides: some tens of milliseconds.
std::vector<Finding> auditIdle(const predict::Idle& idle, const amp::Library& library, const predict::GoOn& goOn = {});

struct AuditQuestion {
  bool operator==(const AuditQuestion&) const = default;
};
/// The same as a question; stopped between rules and within the discharge.
tl::expected<std::vector<Finding>, Problem> auditIdle(const predict::Idle& idle, const amp::Library& library,
                                                      const AuditQuestion& question, const predict::GoOn& goOn);

struct PlayedAuditQuestion {
  std::shared_ptr<const predict::Sound> chord;
  bool operator==(const PlayedAuditQuestion&) const = default;
};
/// What a player's loudest, a hard chord at `loudestPeak`, does to screens, plates and rectifier beyond what idling
/// does. Some tenths of a second. A design without a jack
/// has none; a chord that is not there, or a wave without an answer, is a Problem.
constexpr double loudestPeak = 1; ///< volts at the jack: a hard strum on a hot pickup
tl::expected<std::vector<Finding>, Problem> auditPlayed(const predict::Idle& idle, const amp::Library& library,
                                                        const PlayedAuditQuestion& question, const predict::GoOn& goOn);

/// The safety text, a heading and its paragraphs; the builder's local code and licensed people go before it.
struct SafetyText {
  std::string title;
  std::vector<std::string> paragraphs;
};
const SafetyText& safetyText();

} // namespace vinegar::audit
