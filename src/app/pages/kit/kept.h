// Questions of a view's with what was answered last.
#pragma once

#include "ask/asker.h"

namespace vinegar::app {

class View;

/// A view's question with its last answers: asked while the view is on screen, drawn when it is answered, emptied with
/// the view.
class KeptBase {
public:
  virtual ~KeptBase() = default;
  KeptBase(const KeptBase&) = delete;
  KeptBase& operator=(const KeptBase&) = delete;
  /// Nothing was answered.
  virtual void empty() = 0;

protected:
  explicit KeptBase(View& view);
  void own(AskingBase& asking);
  /// Something was answered.
  void changed();
  [[nodiscard]] Asker& asker() const;

private:
  View& view_;
};

/// What a prediction asks and answers.
template <class Predict> struct PredictionOf;
template <class A, class Q>
struct PredictionOf<tl::expected<A, Problem> (*)(const predict::Idle&, const amp::Library&, const Q&,
                                                 const predict::GoOn&)> {
  using Answer = A;
  using Question = Q;
};

/// `Kept<predict::predictLevels> levels_{*this, Weight::quick, Of::inkAndNow};`, a member of the view; `*levels_` are
/// the answers.
template <auto predict> class Kept : public KeptBase {
public:
  using Question = typename PredictionOf<decltype(predict)>::Question;
  using Answer = typename PredictionOf<decltype(predict)>::Answer;

  Kept(View& view, Weight weight, Of of = Of::all) : KeptBase(view), asking_(asker(), predict, weight, of) {
    own(asking_);
    asking_.answered = [this](const Answers<Answer>& answers) {
      answers_ = answers;
      if (then)
        then();
      else
        changed();
    };
  }
  void ask(Question question) { asking_.ask(std::move(question)); }
  /// The same; of another question nothing that was answered before stands.
  void askAfresh(Question question) {
    if (!asked_ || !(*asked_ == question)) {
      asked_ = question;
      answers_ = {};
    }
    ask(std::move(question));
  }
  /// Of these designs instead of the document's own.
  void ask(Question question, Sides sides) { asking_.ask(std::move(question), std::move(sides)); }
  /// The same when the builder rests; the designs are made then.
  void askAfterRest(Question question, std::function<Sides()> sides) {
    asking_.askAfterRest(std::move(question), std::move(sides));
  }
  /// Nothing is asked until it is asked, and nothing kept.
  void rest() {
    asking_.rest();
    empty();
  }
  void empty() override { answers_ = {}; }
  const Answers<Answer>& operator*() const { return answers_; }
  const Answers<Answer>* operator->() const { return &answers_; }
  std::function<void()> then; ///< what is done with a new answer, in place of drawing the view

private:
  Asking<Question, Answer> asking_;
  std::optional<Question> asked_;
  Answers<Answer> answers_;
};

/// A question that is put twice: coarsely, for a glance, and finely. What is fine already is not made coarse again: the
/// ink stays as it stands while the pencil is turned.
template <auto predict> class CoarseFine : public KeptBase {
public:
  using Question = typename PredictionOf<decltype(predict)>::Question;
  using Answer = typename PredictionOf<decltype(predict)>::Answer;

  CoarseFine(View& view, Of of)
      : KeptBase(view), coarse_(asker(), predict, Weight::heavy, of), fine_(asker(), predict, Weight::heavy, of) {
    own(coarse_);
    own(fine_);
    coarse_.answered = [this](const Answers<Answer>& answers) {
      // Why there is none the fine one tells, which may be there all the same.
      if (!answers.nowValue() || (!isCoarse_ && answers.edition == answers_.edition)) return;
      auto merged = answers;
      for (auto& side : merged.sides)
        for (const auto& known : fineAnswers_.sides)
          if (known.side.design == side.side.design && known.get()) side.value = known.value;
      take(merged, true);
    };
    fine_.answered = [this](const Answers<Answer>& answers) {
      fineAnswers_ = answers;
      take(answers, false);
    };
  }
  /// Of another question nothing that was answered before stands.
  void ask(Question coarse, Question fine) {
    if (!asked_ || !(*asked_ == fine)) {
      asked_ = fine;
      empty();
    }
    coarse_.ask(std::move(coarse));
    fine_.ask(std::move(fine));
  }
  /// Finely alone; what was answered stands until then.
  void askFine(Question fine) { fine_.ask(std::move(fine)); }
  void rest() {
    coarse_.rest();
    fine_.rest();
    empty();
  }
  void empty() override {
    answers_ = fineAnswers_ = {};
    isCoarse_ = true;
  }
  [[nodiscard]] bool isCoarse() const { return isCoarse_; }
  const Answers<Answer>& operator*() const { return answers_; }
  const Answers<Answer>* operator->() const { return &answers_; }

private:
  void take(const Answers<Answer>& answers, bool coarse) {
    answers_ = answers;
    isCoarse_ = coarse;
    changed();
  }

  Asking<Question, Answer> coarse_, fine_;
  std::optional<Question> asked_;
  Answers<Answer> answers_, fineAnswers_;
  bool isCoarse_ = true;
};

} // namespace vinegar::app
