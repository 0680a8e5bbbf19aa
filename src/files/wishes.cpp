#include "files/wishes.h"

#include "files/extra_fields.h"

namespace vinegar::files {
namespace {

constexpr std::size_t mostWished = 10'000;

std::vector<amp::CurvePoint> pointsOf(const units::JsonReader& reader, const char* field) {
  std::vector<amp::CurvePoint> points;
  for (const auto& point : reader.list(field)) {
    const auto pair = point.elements();
    if (pair.size() != 2) point.fail("a point is a frequency and a level");
    points.push_back({pair[0].asValue(units::Unit::hertz), pair[1].asValue(units::Unit::decibel)});
    if (points.size() > mostWished) point.fail("more points than a curve needs; 10000 are enough");
  }
  return points;
}

units::Json pointsJson(const std::vector<amp::CurvePoint>& points) {
  auto json = units::Json::array();
  for (const auto& point : points)
    json.push_back({point.hertz, point.decibels});
  return json;
}

amp::MeasuredSound soundOf(const units::JsonReader& reader) {
  amp::MeasuredSound sound{reader.text("name"), pointsOf(reader, "points"), unknownFields(reader, {"name", "points"})};
  const auto& points = sound.points;
  const auto elements = reader.list("points");
  for (std::size_t i = 0; i < points.size(); ++i)
    if (!(points[i].hertz > 0) || (i > 0 && points[i].hertz <= points[i - 1].hertz))
      elements[i].fail("frequencies rise from point to point");
  if (points.size() < 2) reader.fail("needs two points or more");
  return sound;
}

} // namespace

amp::Target targetFields(const units::JsonReader& file) {
  amp::Target target;
  target.from = file.text("from", target.from);
  target.to = file.text("to", target.to);
  target.level = file.flag("level", false);
  target.target = pointsOf(file, "target");
  if (file.has("parts"))
    for (const auto& part : file.list("parts"))
      target.parts.push_back(part.asText());
  if (file.has("series")) {
    target.series = units::seriesNamed(file.text("series"));
    if (!target.series) file.at("series").fail("is no series; must be E6, E12, E24 or E96");
  }
  if (file.has("atHand"))
    for (const auto& [part, values] : file.at("atHand").members())
      for (const auto& value : values.elements())
        target.atHand[part].push_back(value.asValue(units::Unit::none));
  target.extra = unknownFields(file, {"format", "from", "to", "level", "target", "parts", "series", "atHand"});
  return target;
}

units::Json targetJson(const amp::Target& target) {
  units::Json json{{"from", target.from}, {"to", target.to}, {"level", target.level}};
  json["target"] = pointsJson(target.target);
  if (!target.parts.empty()) json["parts"] = target.parts;
  if (target.series) json["series"] = std::string(units::nameOf(*target.series));
  if (!target.atHand.empty()) json["atHand"] = target.atHand;
  restoreUnknown(json, target.extra);
  return json;
}

void readWishes(const units::JsonReader& file, amp::Document& document) {
  if (file.has("targets"))
    for (const auto& [name, target] : file.object("targets").members())
      document.targets[name] = targetFields(target);
  if (file.has("bands"))
    for (const auto& band : file.list("bands")) {
      document.bands.push_back(
          {band.text("name"), band.number("low"), band.number("high"), unknownFields(band, {"name", "low", "high"})});
      if (!(document.bands.back().low > 0 && document.bands.back().high > document.bands.back().low))
        band.fail("goes from a lower to a higher frequency");
    }
  if (file.has("sound")) document.sound = soundOf(file.object("sound"));
}

void writeWishes(const amp::Document& document, units::Json& json) {
  for (const auto& [name, target] : document.targets)
    units::append(json["targets"], name, targetJson(target));
  for (const auto& band : document.bands) {
    json["bands"].push_back({{"name", band.name}, {"low", band.low}, {"high", band.high}});
    restoreUnknown(json["bands"].back(), band.extra);
  }
  if (const auto& sound = document.sound) {
    json["sound"] = {{"name", sound->name}, {"points", pointsJson(sound->points)}};
    restoreUnknown(json["sound"], sound->extra);
  }
}

} // namespace vinegar::files
