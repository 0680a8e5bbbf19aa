// A page by itself: session, asker, findings, no window around it.
#pragma once

#include "pages/kit/page.h"
#include "support/paths.h"
#include "support/samples.h"

#include <QTest>
#include <gtest/gtest.h>

namespace vinegar::app {

class PageFixture : public testing::Test {
protected:
  PageFixture() {
    QObject::connect(&session_, &Session::replaced, &asker_, [this] {
      asker_.startAfresh();
      findings_.startAfresh();
      if (page_) page_->documentReplaced();
    });
    QObject::connect(&session_, &Session::changed, &asker_, [this] {
      asker_.follow(session_.sides());
      findings_.follow();
      if (page_) page_->documentChanged();
    });
    QObject::connect(&asker_, &Asker::idleAnswered, &asker_, [this] {
      if (page_) page_->idleAnswered();
    });
  }
  ~PageFixture() override { page_.reset(); }

  void openPage(const QString& id) {
    for (const auto* facts : pageList())
      if (QLatin1String(facts->id) == id) page_.reset(facts->make(context(), *facts));
    ASSERT_TRUE(page_) << id.toStdString();
    page_->resize(900, 420);
    page_->show();
  }
  PageContext context() {
    return {session_,
            asker_,
            selection_,
            findings_,
            [this](const QString& message, bool) { said_ << message; },
            [this](const char* action) { acted_ << QLatin1String(action); },
            dataFolder_};
  }
  void openSample(const char* name) {
    ASSERT_FALSE(session_.open(QString::fromStdString(testing_support::samplePath(name).string()), true));
    settle();
  }
  void pencil(const char* part, const amp::Setting& to, const char* field = "value") {
    session_.edit(QStringLiteral("p"),
                  [&](amp::Document& d) { amp::pencil(d, testing_support::library(), part, field, to); });
  }
  /// Until the page shows what it will.
  void settle() {
    ASSERT_TRUE(QTest::qWaitFor([this] { return asker_.pagesAnswered(); }, 120000));
    QTest::qWait(2);
  }
  /// Until the findings stand too, which play a chord.
  void settleAll() {
    ASSERT_TRUE(QTest::qWaitFor([this] { return asker_.quiet() && findings_.quiet(); }, 120000));
    QTest::qWait(2);
  }
  template <class T> T* child(const char* name) {
    auto* found = page_->findChild<T*>(QString::fromUtf8(name));
    EXPECT_NE(found, nullptr) << name;
    return found;
  }
  QString said() { return page_->frame().state().said(); }

  Session session_{testing_support::library(), {}};
  Selection selection_{session_};
  Asker asker_{testing_support::library()};
  FindingsDesk findings_{asker_, testing_support::hardChord()};
  QStringList said_, acted_;
  QString dataFolder_ = QString::fromStdString(testing_support::folder("data"));
  std::unique_ptr<Page> page_;
};

} // namespace vinegar::app
