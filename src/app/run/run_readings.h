#pragma once

#include "ask/answers.h"
#include "audit/supply_rules.h"
#include "document/session.h"
#include "run/run_painter.h"

namespace vinegar::app {

/// What the active sheet has taken out of the amplifier that is drawn, each where it stood.
std::vector<RunContent::Gone> whatIsGone(const std::vector<amp::Mark>& marks, const amp::Drawing& drawing,
                                         const amp::Library& library);

/// Ids of the sections that the active sheet has put in, also in the place of others.
std::set<std::string> whatIsPutIn(const std::vector<amp::Mark>& marks);

/// Everything that is written in the run, and what is marked in it as stressed.
struct RunReadings {
  std::map<std::string, InkAndPencil> labels, volts;
  std::set<std::string> stressed;
};

RunReadings runReadings(const Session& session, const Answers<predict::Idle>& idle,
                        const std::vector<audit::Finding>& findings);

} // namespace vinegar::app
