#include "document/saving.h"
#include "files/data_folder.h"
#include "files/design_file.h"
#include "run/run_files.h"
#include "run/section_sheet.h"
#include "theme/theme.h"
#include "units/printable.h"
#include "window/main_window.h"
#include "window/page_stack.h"

#include <QApplication>
#include <QBuffer>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QIcon>
#include <QLibraryInfo>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTimer>
#include <QTranslator>
#include <cstdio>

namespace {

using namespace vinegar;

struct Wanted {
  QString file, shot, page, themeName, part;
  QStringList pencils, presses;
  QSize size{1280, 800};
  double scale = 0;
  bool timing = false, volts = false;
  QString run;
  QPageSize::PageSizeId paper = app::usualPaper();
};

/// Whole or not at all. The exit code.
int writePicture(const QImage& picture, const QString& path) {
  QBuffer buffer;
  buffer.open(QIODevice::WriteOnly);
  const auto problem = picture.save(&buffer, "PNG") ? app::saveBytes(path, buffer.data())
                                                    : QObject::tr("%1: the picture could not be drawn").arg(path);
  if (!problem.isEmpty()) std::fprintf(stderr, "vinegar: %s\n", qPrintable(problem));
  return problem.isEmpty() ? 0 : 1;
}

/// Once everything asked for is on screen.
void whenIdle(app::MainWindow& window, const std::function<void()>& then) {
  auto* timer = new QTimer(&window);
  QObject::connect(timer, &QTimer::timeout, &window, [&window, then, timer] {
    if (!window.idle()) return;
    timer->stop();
    QTimer::singleShot(60, &window, then);
  });
  timer->start(20);
}

/// Presses buttons by their object names, each once the one before has done its work; then renders the window to a
/// file and ends.
void takeShot(app::MainWindow& window, const QString& path, QStringList presses) {
  whenIdle(window, [&window, path, presses = std::move(presses)]() mutable {
    if (presses.isEmpty()) return QApplication::exit(writePicture(window.grab().toImage(), path));
    const auto name = presses.takeFirst();
    auto* button = window.findChild<QAbstractButton*>(name);
    if (!button) {
      std::fprintf(stderr, "vinegar: --press \u201c%s\u201d is not there\n", qPrintable(name));
      return QApplication::exit(2);
    }
    button->click();
    takeShot(window, path, presses);
  });
}

/// Both resistor styles, as many sheets as it takes. `only`: ids to draw, or none for all.
int writeSections(const amp::Library& library, const QString& path, const QStringList& only) {
  std::vector<const amp::SectionTemplate*> sections;
  for (const auto& [id, section] : library.sections)
    if (only.isEmpty() || only.contains(QString::fromStdString(id))) sections.push_back(&section);
  constexpr std::size_t perSheet = 12;
  for (std::size_t i = 0; i < sections.size(); i += perSheet) {
    const auto end = sections.begin() + static_cast<std::ptrdiff_t>(std::min(i + perSheet, sections.size()));
    const auto style = i / perSheet % 2 ? app::ResistorStyle::zigzag : app::ResistorStyle::box;
    const auto file = QStringLiteral("%1-%2.png").arg(path).arg(i / perSheet + 1);
    const auto sheet =
        app::sectionSheet({sections.begin() + static_cast<std::ptrdiff_t>(i), end}, library, style, 1900, 8.5);
    if (const int code = writePicture(sheet, file); code != 0) return code;
  }
  return 0;
}

void addOptions(QCommandLineParser& parser) {
  parser.setApplicationDescription(QObject::tr("A workbench for tube amplifiers"));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(QStringLiteral("FILE"), QObject::tr("Design to open; without one, the sample"),
                               QStringLiteral("[FILE]"));
  const auto option = [&](const char* name, const QString& about, const char* value) {
    parser.addOption({QString::fromLatin1(name), about, QString::fromLatin1(value)});
  };
  option("shot", QObject::tr("Write a picture of the window to FILE.png and end"), "FILE.png");
  option("sections", QObject::tr("Write pictures of the library's sections to FILE-1.png ... and end"), "FILE");
  option("run", QObject::tr("Write the run to FILE.pdf, .svg or .png and end"), "FILE");
  option("paper", QObject::tr("With --run: A4, A3, Letter or Tabloid"), "NAME");
  parser.addOption({QStringLiteral("volts"), QObject::tr("With --run: write the DC volts of every node")});
  option("page", QObject::tr("Page to show"), "NAME");
  option("view", QObject::tr("View of the Supply page, e.g. Choices"), "NAME");
  option("size", QObject::tr("Size of the window, e.g. 1280x800"), "WxH");
  option("theme", QObject::tr("vellum or lamp"), "NAME");
  option("scale", QObject::tr("Size of everything, 1 to 2"), "FACTOR");
  option("select", QObject::tr("Part to select, or id of a section"), "PART");
  option("pencil", QObject::tr("Pencil a value in, e.g. C2=330n; may be given again"), "PART=VALUE");
  option("press", QObject::tr("Press a button before the picture is taken, by its object name; may be given again"),
         "NAME");
  parser.addOption(
      {QStringLiteral("timing"), QObject::tr("Print the time from start to the first complete picture and end")});
}

/// What is asked for, or what is wrong with it. Whoever asks for what there is not, is told; nothing is passed over.
QString read(const QCommandLineParser& parser, double scale, Wanted& wanted) {
  if (const auto extra = parser.positionalArguments(); extra.size() > 1)
    return QObject::tr("%1: one design at a time can be opened").arg(extra[1]);
  const auto oneOf = [&](const char* name, const QStringList& known) {
    const auto value = parser.value(QString::fromLatin1(name));
    return !parser.isSet(QString::fromLatin1(name)) || known.contains(value)
               ? QString()
               : QObject::tr("--%1 \u201c%2\u201d is not known; there is %3")
                     .arg(QString::fromLatin1(name), value, known.join(QStringLiteral(", ")));
  };
  QStringList papers;
  for (const auto& [title, id] : app::papers())
    papers << title;
  for (const auto& wrong : {oneOf("page", app::PageStack::ids()), oneOf("paper", papers),
                            oneOf("theme", {app::vellum().name, app::lamp().name})})
    if (!wrong.isEmpty()) return wrong;
  if (parser.isSet(QStringLiteral("scale")) && !(scale >= 1 && scale <= 2))
    return QObject::tr("--scale wants a factor from 1 to 2");
  wanted.file = parser.positionalArguments().value(0);
  wanted.shot = parser.value(QStringLiteral("shot"));
  wanted.page = parser.value(QStringLiteral("page"));
  wanted.themeName = parser.value(QStringLiteral("theme"));
  wanted.part = parser.value(QStringLiteral("select"));
  wanted.pencils = parser.values(QStringLiteral("pencil"));
  wanted.presses = parser.values(QStringLiteral("press"));
  wanted.run = parser.value(QStringLiteral("run"));
  wanted.volts = parser.isSet(QStringLiteral("volts"));
  for (const auto& [title, id] : app::papers())
    if (parser.value(QStringLiteral("paper")) == title) wanted.paper = id;
  wanted.timing = parser.isSet(QStringLiteral("timing"));
  if (parser.isSet(QStringLiteral("size"))) {
    const auto parts = parser.value(QStringLiteral("size")).split(QLatin1Char('x'));
    wanted.size = parts.size() == 2 ? QSize(parts[0].toInt(), parts[1].toInt()) : QSize();
    if (wanted.size.width() < 400 || wanted.size.height() < 300 || wanted.size.width() > 10000 ||
        wanted.size.height() > 10000)
      return QObject::tr("--size wants WIDTHxHEIGHT, e.g. 1280x800");
  }

  return {};
}

} // namespace

int main(int argc, char** argv) {
  QElapsedTimer sinceStart;
  sinceStart.start();
  QCoreApplication::setOrganizationName(QStringLiteral("vinegar"));
  QCoreApplication::setApplicationName(QStringLiteral("vinegar"));
  QCoreApplication::setApplicationVersion(QStringLiteral(VINEGAR_VERSION));
  QGuiApplication::setDesktopFileName(QStringLiteral("vinegar"));

  // The scale has to be known before there is an application.
  double scale = QSettings().value(QStringLiteral("scale"), 1.0).toDouble();
  for (int i = 1; i + 1 < argc; ++i)
    if (qstrcmp(argv[i], "--scale") == 0) scale = QByteArray(argv[i + 1]).toDouble();
  if (scale > 1 && scale <= 2 && qEnvironmentVariableIsEmpty("QT_SCALE_FACTOR"))
    qputenv("QT_SCALE_FACTOR", QByteArray::number(scale));

  QApplication application(argc, argv);
  QCommandLineParser parser;
  addOptions(parser);
  parser.process(application);

  const auto fail = [](const QString& message) {
    std::fprintf(stderr, "vinegar: %s\n", units::printable(message.toStdString()).c_str());
    return 2;
  };
  Wanted wanted;
  if (const auto wrong = read(parser, scale, wanted); !wrong.isEmpty()) return fail(wrong);

  QTranslator translator;
  const auto data = QString::fromStdString(files::dataFolder().string());
  if (translator.load(QLocale(), QStringLiteral("vinegar"), QStringLiteral("_"),
                      data + QStringLiteral("/translations")))
    QCoreApplication::installTranslator(&translator);
  const bool fonts = app::loadFonts(data);
  auto library = amp::Library::load(data.toStdString());
  if (!library) {
    const auto message = QString::fromStdString(library.error().line());
    if (wanted.shot.isEmpty()) {
      QMessageBox box(QMessageBox::Critical, QObject::tr("Vinegar cannot start"), message, QMessageBox::Close);
      box.setTextFormat(Qt::PlainText);
      box.exec();
    }
    return fail(message);
  }

  if (parser.isSet(QStringLiteral("sections"))) {
    app::applyTheme(wanted.themeName.isEmpty() ? app::vellum().name : wanted.themeName);
    return writeSections(*library, parser.value(QStringLiteral("sections")), parser.values(QStringLiteral("select")));
  }

  const bool posing = !wanted.shot.isEmpty() || !wanted.run.isEmpty() || wanted.timing;
  const QString recovery =
      posing ? QString()
             : QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/recovery");
  const auto faulty = posing ? std::vector<Problem>{} : library->addOwn(files::ownDataFolder());
  app::MainWindow window(*library, data, recovery);
  window.takeOwn(*library, files::ownDataFolder());
  for (const auto& line : app::faultyLines(faulty))
    window.notify(line, true);
  if (posing) window.resize(wanted.size);
  if (posing)
    window.setTheme(wanted.themeName.isEmpty() ? QStringLiteral("vellum") : wanted.themeName);
  else if (!wanted.themeName.isEmpty())
    window.setTheme(wanted.themeName);
  const bool opened =
      wanted.file.isEmpty() ? window.openSample(QStringLiteral("slipway")) : window.openFile(wanted.file);
  if (!opened && posing) return fail(QObject::tr("%1 could not be opened").arg(wanted.file));
  if (!fonts) window.notify(QObject::tr("The shipped fonts were not found; the system's are used."));
  if (!wanted.page.isEmpty())
    window.showPage(wanted.page);
  else if (posing)
    window.showPage({});
  for (const auto& pencil : wanted.pencils) {
    const auto name = pencil.section(QLatin1Char('='), 0, 0).toStdString();
    const auto part = amp::findPart(window.session().pencilled(), *library, name);
    const auto value =
        part ? units::parse(pencil.section(QLatin1Char('='), 1).toStdString(), amp::valueUnit(part->part->kind))
             : tl::unexpected(units::ValueError{"there is no such part"});
    if (!value) return fail(pencil + QStringLiteral(": ") + QString::fromStdString(value.error().message));
    if (const auto problem = amp::checkSetting(*part, "value", amp::Setting{*value}, *library))
      return fail(pencil + QStringLiteral(": ") + QString::fromStdString(problem->message));
    window.session().edit(QObject::tr("pencil"),
                          [&](amp::Document& d) { amp::pencil(d, *library, name, "value", *value); });
  }
  window.show();
  if (const auto view = parser.value(QStringLiteral("view")); !view.isEmpty()) {
    if (auto* tab = window.findChild<QPushButton*>(QStringLiteral("view ") + view))
      tab->click();
    else
      return fail(QObject::tr("--view \u201c%1\u201d is not known").arg(view));
  }
  if (!wanted.part.isEmpty()) {
    const auto name = wanted.part.toStdString();
    if (window.session().pencilled().section(name))
      window.selectSection(name);
    else if (opened && !amp::findPart(window.session().pencilled(), *library, name))
      return fail(QObject::tr("--select \u201c%1\u201d: there is no such part or section").arg(wanted.part));
    else
      window.selectPart(name);
  }
  if (!posing) window.offerRecovery();
  if (!wanted.shot.isEmpty()) takeShot(window, wanted.shot, wanted.presses);
  if (!wanted.run.isEmpty())
    whenIdle(window, [&window, wanted] {
      QApplication::exit(window.exportRunTo(wanted.run, wanted.paper, wanted.volts) ? 0 : 1);
    });
  if (wanted.timing) {
    auto* timer = new QTimer(&window);
    QObject::connect(timer, &QTimer::timeout, &window, [&] {
      if (!window.idle()) return;
      window.grab();
      std::printf("%lld ms from start to the sample on screen\n", static_cast<long long>(sinceStart.elapsed()));
      QApplication::exit(0);
    });
    timer->start(1);
  }
  return QApplication::exec();
}
