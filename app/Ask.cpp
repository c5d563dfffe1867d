#include "Ask.h"
#include <QAbstractButton>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>

namespace gyre {
namespace {

QString fileBy(QWidget* parent, const QString& title, const QString& at, const QString& kinds, QFileDialog::AcceptMode mode) {
    const QFileInfo info(at);
    QFileDialog d(parent, title, info.isDir() ? at : info.absolutePath(), kinds);
    d.setOption(QFileDialog::DontUseNativeDialog); // it would have other colours and icons than the window it stands before
    d.setAcceptMode(mode);
    d.setFileMode(mode == QFileDialog::AcceptOpen ? QFileDialog::ExistingFile : QFileDialog::AnyFile);
    d.setObjectName(mode == QFileDialog::AcceptOpen ? "askToOpen" : "askToSave");
    if (!info.isDir() && mode == QFileDialog::AcceptSave) d.selectFile(info.fileName());
    d.setStyleSheet("QToolButton { padding: 1px; min-width: 20px; min-height: 20px; }"); // there is room for the icon alone
    d.resize(760, 480);
    return d.exec() == QDialog::Accepted && !d.selectedFiles().isEmpty() ? d.selectedFiles().front() : QString();
}

} // namespace

QString askToOpen(QWidget* parent, const QString& title, const QString& folder, const QString& kinds) {
    return fileBy(parent, title, folder, kinds, QFileDialog::AcceptOpen);
}

QString askToSave(QWidget* parent, const QString& title, const QString& suggested, const QString& kinds) {
    return fileBy(parent, title, suggested, kinds, QFileDialog::AcceptSave);
}

int ask(QWidget* parent, const QString& title, const QString& question, const QStringList& answers, bool lastIsUsual) {
    QMessageBox box(QMessageBox::Question, title, question, QMessageBox::NoButton, parent);
    box.setObjectName("ask");
    QList<QAbstractButton*> buttons;
    for (const QString& a : answers) {
        auto* b = box.addButton(a, a == answers.last() ? QMessageBox::RejectRole : QMessageBox::AcceptRole);
        b->setObjectName(QString("answer.%1").arg(buttons.size()));
        buttons << b;
    }
    auto* usual = qobject_cast<QPushButton*>(lastIsUsual ? buttons.last() : buttons.first());
    usual->setProperty("role", "primary");
    box.setDefaultButton(usual);
    box.setEscapeButton(buttons.last());
    box.exec();
    const auto at = buttons.indexOf(box.clickedButton());
    return static_cast<int>(at < 0 ? buttons.size() - 1 : at);
}

} // namespace gyre
