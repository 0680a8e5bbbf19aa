#include "support/schema.h"

#include "units/file.h"

#include <nlohmann/json.hpp>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

namespace vinegar::testing_support {

struct Schema::Parsed {
  valijson::Schema schema;
};

Schema::Schema(const std::filesystem::path& file) : parsed_(std::make_unique<Parsed>()) {
  const auto json = nlohmann::json::parse(*units::readFile(file));
  valijson::SchemaParser().populateSchema(valijson::adapters::NlohmannJsonAdapter(json), parsed_->schema);
}

Schema::~Schema() = default;

bool Schema::accepts(const std::string& text) const {
  const auto json = nlohmann::json::parse(text);
  return valijson::Validator().validate(parsed_->schema, valijson::adapters::NlohmannJsonAdapter(json), nullptr);
}

} // namespace vinegar::testing_support
