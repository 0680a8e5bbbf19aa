#pragma once

#include "amp/design/design.h"

#include <QWidget>
#include <functional>
#include <map>

class QCheckBox;
class QComboBox;
class QFormLayout;
class QLineEdit;

namespace vinegar::app {

class Session;

/// Everything a part is told by beside its value: ratings, resistances, turns. Rebuilt when another part's fields are
/// others, since two parts of one name in two amplifiers may be of different kinds.
class ParameterForm : public QWidget {
  Q_OBJECT
public:
  explicit ParameterForm(Session& session, QWidget* parent = nullptr);

  void show(const amp::ResolvedPart& part);

Q_SIGNALS:
  void refused(const QString& why);
  void accepted();

private:
  void build(const amp::ResolvedPart& part);
  void addFlag(const std::string& field);
  void addChoice(const std::string& field);
  void addNumber(const std::string& field, amp::PartKind kind);
  void choose(const std::string& field, const amp::Setting& setting);

  Session& session_;
  std::string part_;
  std::pair<amp::PartKind, std::vector<std::string>> builtFor_; ///< kind and fields
  QFormLayout* form_;
  std::map<std::string, QLineEdit*> edits_;
  std::map<std::string, QCheckBox*> checks_;
  std::map<std::string, QComboBox*> choices_;
};

} // namespace vinegar::app
