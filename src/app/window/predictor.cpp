#include "window/predictor.h"

#include <map>
#include <optional>

namespace vinegar::app {
namespace {
constexpr int responsePoints = 300;
} // namespace

/// What the worker keeps between requests. Only the worker touches it, one request at a time.
struct Predictor::Memory {
  predict::Warmth inkWarmth;
  std::map<std::size_t, predict::Warmth> sheetWarmth;
  amp::Design inkDesign;
  predict::OverviewQuestion inkQuestion;
  std::optional<Shown::Answer> ink;
};

Predictor::Predictor(const amp::Library& library, QObject* parent)
    : QObject(parent), library_(library), memory_(std::make_shared<Memory>()) {}

void Predictor::ask(const amp::Document& document, const std::string& from, const std::string& to,
                    const std::string& part) {
  struct SheetAsked {
    std::size_t index;
    QString name;
    bool active;
    amp::Design design;
  };
  std::vector<SheetAsked> sheets;
  for (std::size_t i = 0; i < document.sheets.size(); ++i) {
    const auto& sheet = document.sheets[i];
    if (sheet.changes.empty()) continue;
    SheetAsked asked{i, QString::fromStdString(sheet.name), i == document.activeSheet,
                     amp::withChanges(document.ink, library_, sheet.changes)};
    if (asked.active)
      sheets.insert(sheets.begin(), std::move(asked));
    else if (sheets.size() < mostSheets)
      sheets.push_back(std::move(asked));
  }
  predict::OverviewQuestion question{from, to, circuit::logSpaced(10, 100000, responsePoints), part};
  work_.ask([this, memory = memory_, ink = document.ink, sheets = std::move(sheets), question,
             &library = library_]() -> LatestWins::Deliver {
    const auto predicted = [&](const amp::Design& design, predict::Warmth& warmth,
                               const predict::OverviewQuestion& q) -> Shown::Answer {
      auto overview = predict::predictOverview(design, library, q, &warmth);
      if (!overview) return tl::unexpected(overview.error());
      return std::make_shared<const predict::Overview>(std::move(*overview));
    };
    // The ink rarely changes; what was found for it is kept. Steps are wanted of what the builder is turning.
    auto inkQuestion = question;
    if (!sheets.empty() && sheets.front().active) inkQuestion.part.clear();
    const bool sameInk = memory->ink && memory->inkDesign == ink && memory->inkQuestion.from == inkQuestion.from &&
                         memory->inkQuestion.to == inkQuestion.to && memory->inkQuestion.part == inkQuestion.part;
    if (!sameInk) {
      memory->ink = predicted(ink, memory->inkWarmth, inkQuestion);
      memory->inkDesign = ink;
      memory->inkQuestion = inkQuestion;
    }
    auto shown = std::make_shared<Shown>();
    shown->ink = *memory->ink;
    shown->question = question;
    for (const auto& sheet : sheets) {
      auto own = question;
      if (!sheet.active) own.part.clear();
      shown->sheets.push_back(
          {sheet.name, sheet.active, predicted(sheet.design, memory->sheetWarmth[sheet.index], own)});
    }
    return [this, shown] { Q_EMIT answered(*shown); };
  });
}

} // namespace vinegar::app
