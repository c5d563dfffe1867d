#include "model/CardPart.h"

namespace gyre {

CardPart::CardPart(AppModel& model) : ModelPart(model) {
    constexpr int kSoon = 150; // ms
    m_soon.setSingleShot(true);
    m_soon.setInterval(kSoon);
    connect(&m_soon, &QTimer::timeout, this, &CardPart::ask);
    // They lie at the same place.
    connect(&model, &AppModel::cardOpened, this, [this](const QObject* card) {
        if (card != this) open(false);
    });
    for (const auto signal : {&AppModel::resultChanged, &AppModel::selectionChanged, &AppModel::benchChanged, &AppModel::jobChanged, &AppModel::computingChanged})
        connect(&model, signal, this, [this] {
            if (m_open) ask();
        });
}

void CardPart::open(bool on) {
    if (on == m_open) return;
    m_open = on;
    if (on) {
        emit m_model.cardOpened(this);
        ask();
    } else {
        m_soon.stop();
        closed();
        m_apart.cancel();
    }
    emit changed();
}

void CardPart::ask() {
    m_soon.stop();
    m_again = true;
    if (!m_apart.busy()) {
        m_again = false;
        return start();
    }
    forget();
    m_apart.cancel();
}

} // namespace gyre
