#include "panels/Word.h"
#include "Theme.h"
#include "base/Units.h"
#include <QEnterEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace gyre {

QFont Word::wordFont() const {
    QFont f = font();
    f.setWeight(m_heavy ? QFont::Bold : QFont::Medium);
    return f;
}

Word::Word(Kind kind, const QString& key, const QString& accessibleName, QWidget* parent) : QWidget(parent), m_kind(kind), m_key(key) {
    setObjectName("word." + key);
    setAccessibleName(accessibleName);
    setToolTip(accessibleName);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(isNumber() ? Qt::SizeHorCursor : kind == Kind::Text ? Qt::IBeamCursor : Qt::PointingHandCursor);
    setAttribute(Qt::WA_Hover);
    if (kind == Kind::Angle) m_step = 1.0;
}

void Word::setShownText(const QString& text) {
    if (text == m_text) return;
    m_text = text;
    setAccessibleDescription(text);
    updateGeometry();
    update();
}

void Word::show(const QString& value, bool inches) {
    m_value = value;
    m_inches = inches;
    if (m_kind == Kind::Length)
        setShownText(QString::fromStdString(formatLength(value.toDouble(), inches ? LengthUnit::Inch : LengthUnit::Millimetre)));
    else if (m_kind == Kind::Angle)
        setShownText(QString::number(value.toDouble(), 'f', 1) + "°");
    else if (m_kind == Kind::Number)
        setShownText(QString::number(value.toDouble(), 'g', 6));
    else if (m_kind == Kind::Text)
        setShownText(value.isEmpty() ? tr("nothing yet") : value);
    else
        for (const Option& o : m_options)
            if (o.value == value) return setShownText(o.label);
    if (m_kind == Kind::Choice) setShownText(value.isEmpty() ? tr("choose") : value);
}

void Word::setWords(const QString& text) { setShownText(text); }

void Word::setChecked(bool on) {
    m_checked = on;
    update();
}

QSize Word::sizeHint() const {
    const QFontMetrics m(wordFont());
    return {m.horizontalAdvance(m_text) + 4, m.height() + 4};
}

void Word::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.setFont(wordFont());
    if (m_checked || hasFocus() || underMouse()) {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(Qt::NoPen);
        p.setBrush(m_checked ? t.accent : t.accentSoft);
        p.drawRoundedRect(rect(), 3, 3);
    }
    p.setPen(m_checked ? t.card : t.accent);
    p.drawText(rect().adjusted(2, 0, -2, -2), Qt::AlignVCenter | Qt::AlignLeft, m_text);
    if (!m_checked) p.drawLine(2, height() - 2, width() - 3, height() - 2);
}

void Word::commit(const QString& text) {
    if (m_kind == Kind::Action) return emit listed(m_key, text);
    if (m_kind == Kind::Text) return emit changed(m_key, text);
    const std::string s = text.toStdString();
    if (m_kind == Kind::Number) {
        bool good = false;
        const double v = QString(text).replace(',', '.').toDouble(&good);
        if (good && std::isfinite(v)) return emit changed(m_key, QString::number(v, 'g', 12));
        return emit wrongText(tr("'%1' is not a number").arg(text));
    }
    const auto parsed = m_kind == Kind::Length ? parseLength(s, m_inches ? LengthUnit::Inch : LengthUnit::Millimetre) : parseAngleDegrees(s);
    if (!parsed) {
        emit wrongText(QString::fromStdString(parsed.error().text()));
        return;
    }
    emit changed(m_key, QString::number(*parsed, 'g', 12));
}

void Word::stepBy(double steps) {
    if (m_kind == Kind::Choice && !m_options.empty()) {
        std::size_t at = 0;
        for (std::size_t i = 0; i < m_options.size(); ++i)
            if (m_options[i].value == m_value) at = i;
        const auto n = static_cast<int>(m_options.size());
        const int to = ((static_cast<int>(at) + (steps > 0 ? 1 : -1)) % n + n) % n;
        emit changed(m_key, m_options[static_cast<std::size_t>(to)].value);
        return;
    }
    if (!isNumber()) return;
    const double unit = m_kind == Kind::Length && m_inches ? kMmPerInch * 0.1 : 1.0;
    // A whole number of steps: values stay round whatever they were before.
    const double step = m_step * unit;
    emit changed(m_key, QString::number(std::round((m_value.toDouble() + steps * step) / step) * step, 'g', 10));
}

void Word::beginEdit(const QString& start) {
    if (m_kind == Kind::Action) {
        emit triggered(m_key);
        return;
    }
    if (m_kind == Kind::Choice) {
        auto* menu = new QMenu(this);
        menu->setObjectName("menu." + m_key);
        menu->setAttribute(Qt::WA_DeleteOnClose);
        for (const Option& o : m_options) {
            QAction* a = menu->addAction(o.label, this, [this, v = o.value] { emit changed(m_key, v); });
            a->setObjectName("choice." + o.value);
            a->setCheckable(true);
            a->setChecked(o.value == m_value);
            connect(a, &QAction::hovered, this, [this, menu, v = o.value] {
                if (menu->isVisible()) emit offered(m_key, v);
            });
        }
        connect(menu, &QMenu::aboutToHide, this, [this] { emit offered(m_key, {}); });
        menu->popup(mapToGlobal(QPoint(0, height() + 2)));
        return;
    }
    openLine(start.isEmpty() ? (m_kind == Kind::Text ? m_value : m_text) : start, start.isEmpty());
}

void Word::openLine(const QString& text, bool select) {
    if (m_edit) return;
    m_edit = new QLineEdit(parentWidget());
    m_edit->setObjectName("edit." + m_key);
    m_edit->setAccessibleName(accessibleName());
    m_edit->setText(text);
    m_opened = select ? text : QString(); // what was typed already counts
    m_edit->setGeometry(
        QRect(mapTo(parentWidget(), QPoint(-4, -2)), QSize(std::max(m_kind == Kind::Text || m_kind == Kind::Action ? 180 : 72, width() + 28), height() + 4)));
    if (m_edit->geometry().right() > parentWidget()->width()) m_edit->move(parentWidget()->width() - m_edit->width(), m_edit->y());
    m_edit->show();
    m_edit->setFocus();
    if (select) m_edit->selectAll();
    m_edit->installEventFilter(this);
    connect(m_edit, &QLineEdit::returnPressed, this, [this] {
        closeEdit(true);
        emit entered();
    });
    connect(m_edit, &QLineEdit::editingFinished, this, [this] { closeEdit(true); });
}

void Word::closeEdit(bool keep) {
    if (!m_edit) return;
    QLineEdit* edit = m_edit;
    m_edit = nullptr;
    const QString text = edit->text();
    edit->hide();
    edit->deleteLater();
    setFocus();
    if (keep && text != m_opened) commit(text);
}

// Escape belongs to the line while it is open, not to the window's own shortcut.
bool Word::eventFilter(QObject* object, QEvent* e) {
    const bool key = e->type() == QEvent::ShortcutOverride || e->type() == QEvent::KeyPress;
    if (object == m_edit && key && static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        e->accept();
        if (e->type() == QEvent::KeyPress) closeEdit(false);
        return true;
    }
    return QWidget::eventFilter(object, e);
}

void Word::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    m_dragStart = e->globalPosition().x();
    m_dragValue = m_value.toDouble();
    m_dragging = false;
}

void Word::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton) || !isNumber()) return;
    const double by = e->globalPosition().x() - m_dragStart;
    if (!m_dragging && std::abs(by) < 5.0) return;
    m_dragging = true;
    const double step = m_step * (m_kind == Kind::Length && m_inches ? kMmPerInch * 0.1 : 1.0);
    show(QString::number(std::round((m_dragValue + std::trunc(by / 5.0) * step) / step) * step, 'g', 10), m_inches);
    emit changed(m_key, m_value);
}

void Word::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && !m_dragging && rect().contains(e->position().toPoint())) beginEdit();
    m_dragging = false;
}

void Word::wheelEvent(QWheelEvent* e) {
    // Only a word that was chosen turns with the wheel; else the panel scrolls.
    if (!hasFocus()) return e->ignore();
    stepBy(e->angleDelta().y() > 0 ? 1.0 : -1.0);
}

// What would be typed into the word is not the window's shortcut.
bool Word::event(QEvent* e) {
    if (e->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(e);
        const QString t = key->text();
        const bool plain = !(key->modifiers() & ~(Qt::KeypadModifier | Qt::ShiftModifier));
        const bool typed = !t.isEmpty() && (t[0].isDigit() || (isNumber() && (t[0] == '-' || t[0] == '.')));
        if (plain && m_kind != Kind::Choice && (typed || key->key() == Qt::Key_F2)) {
            e->accept();
            return true;
        }
    }
    return QWidget::event(e);
}

void Word::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
    case Qt::Key_Up:
        return stepBy(e->modifiers() & Qt::ShiftModifier ? 10.0 : 1.0);
    case Qt::Key_Down:
        return stepBy(e->modifiers() & Qt::ShiftModifier ? -10.0 : -1.0);
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
        return beginEdit();
    default:
        break;
    }
    const QString t = e->text();
    if (m_kind == Kind::Action && (e->key() == Qt::Key_F2 || (!t.isEmpty() && t[0].isDigit())))
        return openLine(e->key() == Qt::Key_F2 ? m_list : t, e->key() == Qt::Key_F2);
    if (m_kind == Kind::Text && e->key() == Qt::Key_F2) return beginEdit();
    if (isNumber() && !t.isEmpty() && (t[0].isDigit() || t[0] == '-' || t[0] == '.')) return beginEdit(t);
    QWidget::keyPressEvent(e);
}

void Word::enterEvent(QEnterEvent* e) {
    emit hovered(m_key);
    update();
    QWidget::enterEvent(e);
}

void Word::leaveEvent(QEvent* e) {
    emit hovered({});
    update();
    QWidget::leaveEvent(e);
}

void Word::focusInEvent(QFocusEvent* e) {
    emit hovered(m_key);
    update();
    QWidget::focusInEvent(e);
}

void Word::focusOutEvent(QFocusEvent* e) {
    emit hovered({});
    update();
    QWidget::focusOutEvent(e);
}

} // namespace gyre
