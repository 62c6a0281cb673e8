package dev.entente.service.platform;

import jakarta.annotation.PreDestroy;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicLong;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.aop.support.AopUtils;
import org.springframework.beans.factory.ListableBeanFactory;
import org.springframework.beans.factory.SmartInitializingSingleton;
import org.springframework.core.MethodIntrospector;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Looks every second whether anything is due, by one statement for everything that features do by themselves, see
 * {@link WhenDue}. A look that finds nothing writes nothing. Wake-ups come sooner; this makes up for those that get lost, and
 * calls what waits for its time.
 */
@Component
class DueLook implements SmartInitializingSingleton {
    private static final Logger log = LoggerFactory.getLogger(DueLook.class);
    private static final int THREADS = 4;

    private final ListableBeanFactory beans;
    private final Session database;
    private final TransactionTemplate transaction;
    private final List<Work> all = new ArrayList<>();
    private final Set<Work> underWay = ConcurrentHashMap.newKeySet();
    private final ExecutorService working = Executors.newFixedThreadPool(THREADS);
    private String question;

    DueLook(ListableBeanFactory beans, Session database, TransactionTemplate transaction) {
        this.beans = beans;
        this.database = database;
        this.transaction = transaction;
    }

    /** A method of a component, with what is asked before it is called. */
    private record Work(Object bean, Method method, String when, long pause, AtomicLong done) {
        boolean rests() {
            return System.nanoTime() - done.get() < pause;
        }
    }

    @Override
    public void afterSingletonsInstantiated() {
        for (var name : beans.getBeanNamesForType(Object.class, false, false)) {
            var type = beans.getType(name);
            if (type == null || !type.getName().startsWith("dev.entente.")) {
                continue;
            }
            var bean = beans.getBean(name);
            MethodIntrospector.selectMethods(AopUtils.getTargetClass(bean), (MethodIntrospector.MetadataLookup<WhenDue>)
                            method -> AnnotatedElementUtils.findMergedAnnotation(method, WhenDue.class))
                    .forEach((method, due) -> {
                        // Through the proxy, for that is what opens the transaction.
                        var called = AopUtils.selectInvocableMethod(method, bean.getClass());
                        called.setAccessible(true);
                        var pause = Duration.ofSeconds(due.pause()).toNanos();
                        all.add(new Work(bean, called, due.value(), pause, new AtomicLong(System.nanoTime() - pause)));
                    });
        }
        var parts = new ArrayList<String>();
        for (var work : all) {
            parts.add("CASE WHEN EXISTS (" + work.when() + ") THEN " + parts.size() + " END");
        }
        question = "SELECT array_remove(ARRAY[" + String.join(", ", parts) + "], NULL)";
    }

    @Scheduled(fixedDelay = 1000)
    void look() {
        var due = transaction.execute(
                status -> Sql.values(database, question, Integer[].class).getSingleResult());
        for (var number : due) {
            var work = all.get(number);
            if (!work.rests() && underWay.add(work)) {
                working.execute(() -> carryOut(work));
            }
        }
    }

    private void carryOut(Work work) {
        try {
            work.method().invoke(work.bean());
        } catch (InvocationTargetException e) {
            // The next look tries again; the whole trace every second would say no more.
            log.warn("{} failed: {}", work.method(), String.valueOf(e.getCause()));
        } catch (IllegalAccessException e) {
            throw new IllegalStateException(e);
        } finally {
            work.done().set(System.nanoTime());
            underWay.remove(work);
        }
    }

    @PreDestroy
    void stop() {
        working.shutdown();
    }
}
