// Saving under every fault: each system call fails once, and the process ends before each of them. Whatever happens,
// the old or the new content is there whole, and a failure is told.
#include "files/design_file.h"
#include "files/safe_file.h"
#include "support/samples.h"
#include "support/temporary_folder.h"
#include "units/file.h"

#include <array>
#include <cerrno>
#include <fstream>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

namespace vinegar::files {
namespace {

using testing_support::TemporaryFolder;

const std::string before(200000, 'o'), after(300000, 'n');

void put(const std::filesystem::path& path, const std::string& text) { std::ofstream(path) << text; }
std::string contentOf(const std::filesystem::path& path) {
  const auto text = units::readFile(path);
  return text ? *text : std::string();
}
std::size_t filesIn(const std::filesystem::path& folder) {
  return static_cast<std::size_t>(
      std::distance(std::filesystem::directory_iterator(folder), std::filesystem::directory_iterator()));
}

struct HookGuard {
  ~HookGuard() { setFaultHook({}); }
};

/// How the file stands that is saved over: each way of writing has calls of its own.
enum class Standing { absent, ordinary, hardLinked, linked };

std::string nameOf(Standing standing) {
  constexpr std::array names{"absent", "ordinary", "hardLinked", "linked"};
  return names[static_cast<std::size_t>(standing)];
}

struct Target {
  TemporaryFolder folder;
  std::filesystem::path path = folder.path / "amp.vinegar";
  explicit Target(Standing standing) {
    const auto real = folder.path / "real";
    if (standing == Standing::ordinary) put(path, before);
    if (standing == Standing::hardLinked) {
      put(path, before);
      std::filesystem::create_hard_link(path, folder.path / "other-name");
    }
    if (standing == Standing::linked) {
      put(real, before);
      std::filesystem::create_symlink("real", path);
    }
  }
  /// The content that can be got back: the file's own, or what was kept beside it.
  [[nodiscard]] std::string whole() const {
    const auto own = contentOf(path);
    if (own == before || own == after) return own;
    const auto kept = formerContent(path);
    return kept.empty() ? own : contentOf(kept);
  }
};

class SavingUnderFault : public testing::TestWithParam<Standing> {};

TEST_P(SavingUnderFault, LeavesTheOldOrTheNewAndSaysSo) {
  const HookGuard guard;
  const bool wasThere = GetParam() != Standing::absent;
  for (const int code : {ENOSPC, EIO, EACCES}) {
    bool reached = true;
    for (int fault = 1; reached; ++fault) {
      const Target target(GetParam());
      int calls = 0;
      std::string failed;
      setFaultHook([&](std::string_view call) {
        if (++calls != fault) return 0;
        failed = call;
        return code;
      });
      const auto problem = saveAtomically(target.path, after);
      setFaultHook({});
      reached = calls >= fault;
      if (!reached) {
        EXPECT_FALSE(problem);
        EXPECT_EQ(contentOf(target.path), after);
        EXPECT_GT(calls, 4);
        break;
      }
      const auto now = target.whole();
      const bool settled = now == after || now == (wasThere ? before : "");
      EXPECT_TRUE(settled) << failed << " failed with " << code << ": " << now.size() << " bytes";
      // An owner that cannot be kept is no failure: it is written in place then.
      if (failed == "chown") continue;
      ASSERT_TRUE(problem) << failed;
      EXPECT_NE(problem->line().find(target.path.string()), std::string::npos) << problem->line();
      if (problem->message.find("is as it was") != std::string::npos) {
        EXPECT_EQ(contentOf(target.path), wasThere ? before : "") << failed;
      }
    }
  }
}

/// The process ends before each call, as by a kill or a power cut that the disk survives.
TEST_P(SavingUnderFault, AKillLeavesTheOldOrTheNewAndTheNextSaveClearsUp) {
  const bool wasThere = GetParam() != Standing::absent;
  for (int fault = 1;; ++fault) {
    const Target target(GetParam());
    const auto filesBefore = filesIn(target.folder.path);
    const pid_t child = fork();
    if (child == 0) {
      int calls = 0;
      setFaultHook([&](std::string_view) {
        if (++calls == fault) _exit(9);
        return 0;
      });
      _exit(saveAtomically(target.path, after) ? 1 : 0);
    }
    int status = 0;
    ASSERT_EQ(waitpid(child, &status, 0), child);
    const auto now = target.whole();
    EXPECT_TRUE(now == after || now == (wasThere ? before : "")) << "killed before call " << fault;
    ASSERT_FALSE(saveAtomically(target.path, after));
    EXPECT_EQ(contentOf(target.path), after);
    const auto former = formerContent(target.path).empty() ? 0U : 1U;
    EXPECT_LE(filesIn(target.folder.path), std::max<std::size_t>(filesBefore, 1) + former) << "after call " << fault;
    if (WEXITSTATUS(status) == 0) {
      EXPECT_GT(fault, 4);
      break;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(Standings, SavingUnderFault,
                         testing::Values(Standing::absent, Standing::ordinary, Standing::hardLinked, Standing::linked),
                         [](const testing::TestParamInfo<Standing>& info) { return nameOf(info.param); });

TEST(Saving, KeepsPermissionsLinksAndOtherNames) {
  const TemporaryFolder folder;
  const auto path = folder.path / "a", other = folder.path / "b", link = folder.path / "link";
  put(path, before);
  chmod(path.c_str(), 0640);
  ASSERT_FALSE(saveAtomically(path, after));
  struct stat status {};
  ASSERT_EQ(stat(path.c_str(), &status), 0);
  EXPECT_EQ(status.st_mode & 0777U, 0640U);
  std::filesystem::create_hard_link(path, other);
  ASSERT_FALSE(saveAtomically(path, before));
  EXPECT_EQ(contentOf(other), before); // still the same file
  ASSERT_FALSE(saveAtomically(path, "short"));
  EXPECT_EQ(contentOf(other), "short");
  std::filesystem::create_symlink("not-there-yet", link);
  ASSERT_FALSE(saveAtomically(link, after)); // through a dangling link
  EXPECT_TRUE(std::filesystem::is_symlink(link));
  EXPECT_EQ(contentOf(folder.path / "not-there-yet"), after);
  std::filesystem::create_symlink("loop", folder.path / "loop");
  EXPECT_TRUE(saveAtomically(folder.path / "loop", after));
}

TEST(Saving, AnotherOwnersFileStaysTheirs) {
  if (geteuid() != 0) GTEST_SKIP() << "only root can give a file away";
  const TemporaryFolder folder;
  const auto path = folder.path / "a";
  put(path, before);
  ASSERT_EQ(chown(path.c_str(), 4321, 4321), 0);
  ASSERT_FALSE(saveAtomically(path, after));
  struct stat status {};
  ASSERT_EQ(stat(path.c_str(), &status), 0);
  EXPECT_EQ(status.st_uid, 4321U);
  const HookGuard guard; // where the owner cannot be given on, the file itself is written
  const auto inode = status.st_ino;
  setFaultHook([](std::string_view call) { return call == "chown" ? EPERM : 0; });
  ASSERT_FALSE(saveAtomically(path, before));
  ASSERT_EQ(stat(path.c_str(), &status), 0);
  EXPECT_EQ(status.st_ino, inode);
  EXPECT_EQ(status.st_uid, 4321U);
  EXPECT_EQ(contentOf(path), before);
}

TEST(Saving, ANewFileFollowsTheUmask) {
  const TemporaryFolder folder;
  const auto old = umask(0027);
  const auto problem = saveAtomically(folder.path / "a", after);
  umask(old);
  ASSERT_FALSE(problem);
  struct stat status {};
  ASSERT_EQ(stat((folder.path / "a").c_str(), &status), 0);
  EXPECT_EQ(status.st_mode & 0777U, 0640U);
}

TEST(Saving, RefusesWhatMayNotOrCannotBeWritten) {
  const TemporaryFolder folder;
  const auto locked = folder.path / "locked";
  put(locked, before);
  chmod(locked.c_str(), 0444);
  const auto problem = saveAtomically(locked, after);
  ASSERT_TRUE(problem); // for root too, whom the system would let
  EXPECT_NE(problem->message.find("write-protected"), std::string::npos);
  EXPECT_EQ(contentOf(locked), before);
  const auto pipe = folder.path / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  for (const auto& path : {pipe, folder.path, std::filesystem::path("/dev/null"), folder.path / "no" / "folder"})
    EXPECT_TRUE(saveAtomically(path, after)) << path;
}

TEST(Saving, LeavesAloneWhatSomebodyIsStillWriting) {
  const TemporaryFolder folder;
  const HookGuard guard;
  // A second save of another file while the first is under way.
  bool inside = false;
  setFaultHook([&](std::string_view call) {
    if (call == "rename" && !inside) {
      inside = true;
      EXPECT_FALSE(saveAtomically(folder.path / "b", before));
    }
    return 0;
  });
  EXPECT_FALSE(saveAtomically(folder.path / "a", after));
  EXPECT_EQ(contentOf(folder.path / "a"), after);
  EXPECT_EQ(filesIn(folder.path), 2U);
}

TEST(Saving, AFileCutShortIsToldOfWithItsFormerContent) {
  const TemporaryFolder folder;
  const auto path = folder.path / "amp.vinegar";
  const auto text = writeDesignText(testing_support::sample("net-loft"), testing_support::library());
  put(path, text.substr(0, text.size() / 2));
  put(folder.path / "amp.vinegar.vinegar-before-0badcafe", text);
  const auto loaded = readDesign(path, testing_support::library());
  ASSERT_FALSE(loaded);
  EXPECT_NE(loaded.error().message.find("amp.vinegar.vinegar-before-0badcafe"), std::string::npos)
      << loaded.error().line();
}

TEST(Reading, TakesOrdinaryFilesOnlyAndNeverWaits) {
  const TemporaryFolder folder;
  const auto pipe = folder.path / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  struct Case {
    std::filesystem::path path;
    const char* says;
  };
  for (const auto& [path, says] : {Case{pipe, "no ordinary file"},
                                   {"/dev/zero", "no ordinary file"},
                                   {folder.path, "is a folder"},
                                   {folder.path / "none", "no such file"},
                                   {folder.path / "none" / "deeper", "no such file"},
                                   {"/proc/self/mem", "could not be read"}}) {
    const auto text = units::readFile(path);
    ASSERT_FALSE(text) << path;
    EXPECT_NE(text.error().message.find(says), std::string::npos) << text.error().line();
  }
  EXPECT_TRUE(units::readFile("/proc/self/status")); // its size says 0
  const auto large = folder.path / "large";
  put(large, "");
  std::filesystem::resize_file(large, units::largestFile + 1);
  EXPECT_FALSE(units::readFile(large));
}

TEST(LifeSign, EndsWithItsProcessWhateverNumberThatHad) {
  const TemporaryFolder folder;
  const auto path = folder.path / "x.alive";
  EXPECT_FALSE(LifeSign::alive(path));
  {
    const LifeSign sign(path);
    EXPECT_TRUE(LifeSign::alive(path));
  }
  EXPECT_FALSE(std::filesystem::exists(path));
  const pid_t child = fork();
  if (child == 0) {
    const LifeSign sign(path);
    _exit(0); // as killed: the file stays
  }
  int status = 0;
  ASSERT_EQ(waitpid(child, &status, 0), child);
  EXPECT_TRUE(std::filesystem::exists(path));
  EXPECT_FALSE(LifeSign::alive(path));
}

} // namespace
} // namespace vinegar::files
